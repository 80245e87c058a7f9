<script setup lang="ts">
import { mdiAccountOutline, mdiFileCompare, mdiLightbulbOnOutline, mdiTestTube } from '@mdi/js'
import { computed } from 'vue'

import type { Schemas } from '../api/client'
import { number } from '../parts/format'
import { useDefaults } from '../settings/useDefaults'
import { kindOf, type StepKind } from '../steps/kinds'
import { measuredLines, trust } from './readingText'
import { useReading } from './useReading'

const props = defineProps<{
  pictureId: string
  facts: Schemas['Facts']
  has: (kind: StepKind) => boolean
  busy: boolean
  /** Whether the camera's own JPEG is being laid on the picture. */
  bringing: boolean
}>()
const emit = defineEmits<{ start: []; rehearse: []; camera: []; add: [kind: StepKind] }>()

const { defaults } = useDefaults()
const { read, ask } = useReading(() => props.pictureId)
const beyond = computed(() => (props.facts.lowest ?? 0) < 0 || (props.facts.highest ?? 0) > 1)
const lines = computed(() => (read.value?.reading ? measuredLines(read.value.reading) : []))
const chosen = computed(() => read.value?.suggestion?.choices.filter((choice) => choice.step !== null) ?? [])
const leftOut = computed(() => read.value?.suggestion?.choices.filter((choice) => choice.step === null) ?? [])
</script>

<template>
  <section class="small" aria-label="Reading">
    <div v-if="beyond" class="beyond" role="note">
      <p>
        Values go from {{ number(facts.lowest!, 3) }} to {{ number(facts.highest!, 3) }}; 0 is black, 1 is white. What
        lies beyond is cut off by every file but a 32-bit float TIFF.
      </p>
      <v-btn v-if="!has('exposure')" size="small" @click="emit('add', 'exposure')">Bring it in by exposure</v-btn>
    </div>
    <v-btn
      v-if="facts.raw"
      class="mb-2"
      size="small"
      :prepend-icon="mdiFileCompare"
      :loading="bringing"
      title="The JPEG of this name in the job, or the one inside the raw, becomes a take laid on this picture"
      @click="emit('camera')"
      >Compare with the camera’s JPEG</v-btn
    >
    <template v-if="read?.reading">
      <p v-for="sign in read.reading?.damage ?? []" :key="sign" class="damage" role="note">
        {{ sign[0]!.toUpperCase() + sign.slice(1) }}.
      </p>
      <dl>
        <div v-for="line in lines" :key="line.what + line.value">
          <dt class="quiet">{{ line.what }}</dt>
          <dd>{{ line.value }}</dd>
          <dd
            class="trust"
            :class="trust(line.confidence)"
            :title="`Confidence ${Math.round(line.confidence * 100)} %`"
          >
            {{ trust(line.confidence) }}
          </dd>
        </div>
      </dl>
      <v-btn
        v-if="read.reading.faces?.length && !has('faces')"
        size="small"
        :prepend-icon="mdiAccountOutline"
        title="Add the step faces: every face with a switch and a strength of its own"
        @click="emit('add', 'faces')"
        >Restore {{ read.reading.faces.length === 1 ? 'the face' : `the ${read.reading.faces.length} faces` }}</v-btn
      >
      <template v-if="defaults?.suggest">
        <h3>Suggested start</h3>
        <ol>
          <li v-for="choice in chosen" :key="choice.reason">
            <strong>{{ kindOf(choice.kind as StepKind).title }}</strong>
            <span v-if="choice.uncertain" class="trust unsure" title="Compare with and without it"
              >unsure, compare</span
            >
            <p>{{ choice.reason }}</p>
          </li>
        </ol>
        <ul v-if="leftOut.length" class="quiet">
          <li v-for="choice in leftOut" :key="choice.reason">{{ choice.reason }}</li>
        </ul>
        <v-btn
          color="primary"
          variant="flat"
          size="small"
          :prepend-icon="mdiLightbulbOnOutline"
          :loading="busy"
          title="A new take with these steps, beside those there are"
          @click="emit('start')"
          >Make it a take</v-btn
        >
        <v-btn
          size="small"
          class="ml-2"
          :prepend-icon="mdiTestTube"
          title="Try every chain that might suit this picture on worn copies of itself (Shift E)"
          @click="emit('rehearse')"
          >Rehearse</v-btn
        >
      </template>
    </template>
    <template v-else-if="read?.state === 'failed'">
      <p role="alert">{{ read.message }}</p>
      <v-btn size="small" @click="ask.mutate()">Try again</v-btn>
    </template>
    <template v-else>
      <v-progress-linear
        :model-value="(read?.progress ?? 0) * 100"
        :indeterminate="read?.state !== 'running'"
        height="4"
        aria-label="Reading the picture"
      />
      <p role="status">
        {{ read?.state === 'running' ? 'measuring noise, blur and compression' : 'waiting for the worker' }}
      </p>
    </template>
  </section>
</template>

<style scoped>
section {
  padding: 6px 0 10px;
}
dl > div {
  display: grid;
  grid-template-columns: 76px 1fr auto;
  gap: 4px;
  padding: 1px 0;
}
.beyond {
  margin-bottom: 8px;
}
.beyond .v-btn {
  margin-top: 6px;
}
.damage {
  margin-bottom: 6px;
  color: rgb(var(--v-theme-warning));
}
.trust {
  white-space: nowrap;
}
.trust.unsure {
  color: rgb(var(--v-theme-warning));
}
.trust.sure,
.trust.likely {
  opacity: 0.75;
}
h3 {
  margin: 10px 0 2px;
  padding-top: 8px;
  font-size: 13px;
  font-weight: 600;
  border-top: 1px solid rgba(var(--v-theme-on-surface), 0.14);
}
ol,
ul {
  list-style: none;
  padding: 0;
}
ol li {
  padding: 3px 0;
}
li .trust {
  margin-left: 8px;
}
ul li {
  padding: 2px 0;
}
.v-btn {
  margin-top: 10px;
}
</style>
