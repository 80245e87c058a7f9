<script setup lang="ts">
import { computed, watch } from 'vue'

import { number } from '../parts/format'
import { useReading } from '../readings/useReading'
import { cellStyle, gainText, leadText } from './figures'
import { useRehearsal } from './useRehearsal'

const open = defineModel<boolean>({ required: true })
const props = defineProps<{ pictureId: string; busy: boolean }>()
const emit = defineEmits<{ take: [place: number] }>()

const side = 104
const { rehearsal, ask, callOff, underWay } = useRehearsal(() => props.pictureId)
const found = computed(() => rehearsal.value?.found)
const sheet = computed(() => `/api/pictures/${props.pictureId}/rehearsal/sheet.png?${found.value?.revision ?? 0}`)

// Whoever opens it wants one, once it is known what to rehearse.
const { read } = useReading(() => props.pictureId)
watch(
  [open, () => read.value?.state, () => rehearsal.value?.state],
  ([yes, reading, state]) => {
    if (yes && reading === 'done' && state === 'none' && !ask.isPending.value && !callOff.isPending.value) ask.mutate()
  },
  { immediate: true },
)
const doing = computed(() => {
  if (read.value?.state !== 'done') return 'the picture is read first'
  return rehearsal.value?.state === 'running' ? 'trying one chain after another' : 'waiting for the worker'
})
function stop() {
  callOff.mutate()
  open.value = false
}
</script>

<template>
  <v-dialog v-model="open" max-width="860" scrollable aria-label="Rehearsal">
    <v-card class="pa-5">
      <h2>Rehearsal</h2>
      <p class="small quiet intro">
        Places of this picture are made smaller, so that their damage vanishes and the truth is known; worn again as the
        picture was read to be; and brought back by every chain that might suit it. The nearer to that truth, the
        better.
      </p>
      <template v-if="found">
        <p role="status" class="lead">{{ leadText(found.candidates) }}</p>
        <div class="rows">
          <div class="row head small quiet">
            <span class="cell" :style="cellStyle(sheet, 0, side)" role="img" aria-label="The truth" />
            <span>the truth of one of {{ found.scenes }} scenes, enlarged ×{{ found.factor }} below</span>
          </div>
          <div v-for="(one, place) in found.candidates" :key="one.called" class="row" :class="{ best: place === 0 }">
            <span
              class="cell"
              :style="cellStyle(sheet, place + 1, side)"
              role="img"
              :aria-label="`As ${one.called} makes it`"
            />
            <div>
              <strong>{{ one.called }}</strong>
              <p class="small quiet">{{ one.told }}</p>
            </div>
            <dl class="small">
              <div>
                <dt class="quiet">gain</dt>
                <dd>{{ gainText(one) }}</dd>
              </div>
              <div>
                <dt class="quiet">structure</dt>
                <dd>{{ (100 * one.structure).toFixed(1) }} %</dd>
              </div>
              <div title="Fine texture as a share of the truth's">
                <dt class="quiet">texture</dt>
                <dd>{{ number(100 * one.kept, 0) }} %</dd>
              </div>
              <div title="Fine texture where the truth is flat, of 255">
                <dt class="quiet">invented</dt>
                <dd>{{ one.invented.toFixed(1) }}</dd>
              </div>
            </dl>
            <v-btn size="small" :loading="busy" :title="`A new take: ${one.called}`" @click="emit('take', place)"
              >Make it a take</v-btn
            >
          </div>
        </div>
      </template>
      <template v-else-if="rehearsal?.state === 'failed'">
        <p role="alert">{{ rehearsal.message }}</p>
      </template>
      <template v-else-if="read?.state === 'failed'">
        <p role="alert">{{ read.message }}</p>
      </template>
      <template v-else>
        <v-progress-linear
          :model-value="(rehearsal?.progress ?? 0) * 100"
          :indeterminate="rehearsal?.state !== 'running'"
          height="6"
          aria-label="Rehearsing"
        />
        <p role="status" class="small mt-2">{{ doing }}</p>
      </template>
      <div class="d-flex justify-end ga-2 mt-4">
        <v-btn v-if="underWay" @click="stop">Call it off</v-btn>
        <v-btn v-if="rehearsal?.state === 'failed'" @click="ask.mutate()">Try again</v-btn>
        <v-btn color="primary" variant="flat" @click="open = false">Close</v-btn>
      </div>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.intro {
  margin: 4px 0 10px;
}
.lead {
  margin-bottom: 8px;
}
.rows {
  overflow-y: auto;
  max-height: 56vh;
}
.row {
  display: grid;
  grid-template-columns: 104px 1fr 250px auto;
  gap: 14px;
  align-items: center;
  padding: 6px;
  border-bottom: 1px solid rgba(var(--v-theme-on-surface), 0.12);
}
.head {
  grid-template-columns: 104px 1fr;
}
.best {
  background: rgba(var(--v-theme-primary), 0.12);
}
.cell {
  display: block;
  border-radius: 3px;
  image-rendering: auto;
}
dl {
  display: grid;
  grid-template-columns: repeat(2, 1fr);
  gap: 2px 12px;
}
dl > div {
  display: flex;
  justify-content: space-between;
}
</style>
