<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import { number } from '../parts/format'
import { card, useScreen } from './useScreen'

const open = defineModel<boolean>({ required: true })
const { screen, fineness } = useScreen()
/** Device pixels per millimetre while it is being tried. */
const tried = ref(fineness.value)
const by = ref<'card' | 'ruler'>('card')
watch(open, (now) => {
  if (now) tried.value = fineness.value
})

const density = () => window.devicePixelRatio || 1
const px = (millimetres: number) => `${(millimetres * tried.value) / density()}px`
const inch = computed(() => number(tried.value * 25.4, 1))
function nudge(event: KeyboardEvent) {
  const way = { ArrowLeft: -1, ArrowRight: 1 }[event.key]
  if (!way) return
  // The slider would go on from there by steps of its own.
  event.preventDefault()
  event.stopPropagation()
  tried.value = Math.max(1, tried.value + way * (event.shiftKey ? 0.1 : 0.01))
}
function keep() {
  screen.fineness = tried.value
  open.value = false
}
</script>

<template>
  <v-dialog v-model="open" max-width="640" aria-label="Measure this screen">
    <v-card class="pa-5 ruler">
      <h2>Measure this screen</h2>
      <p class="quiet small">
        Once for each screen. Afterwards prints can be seen here in the size they will have on paper.
      </p>
      <v-btn-toggle v-model="by" mandatory density="comfortable" variant="outlined" aria-label="Measure by">
        <v-btn value="card">a bank card</v-btn>
        <v-btn value="ruler">a ruler</v-btn>
      </v-btn-toggle>
      <p class="small">
        {{
          by === 'card'
            ? 'Hold a card onto the frame and move the slider until both are as wide.'
            : 'Hold a ruler onto the line and move the slider until it is 10 cm long.'
        }}
      </p>
      <div class="stage">
        <div
          v-if="by === 'card'"
          class="card"
          :style="{ width: px(card.width), height: px(card.height), borderRadius: px(3.2) }"
          aria-label="Card"
        />
        <div v-else class="line" :style="{ width: px(100) }" aria-label="Line of 10 cm">
          <i v-for="tick in 11" :key="tick" :class="{ long: tick % 5 === 1 }" />
        </div>
      </div>
      <v-slider
        v-model="tried"
        :min="1.5"
        :max="16"
        :step="0.005"
        aria-label="Size on the screen"
        title="The arrow keys move it finely"
        @keydown.capture="nudge"
      />
      <p class="small quiet" role="status">{{ inch }} pixels of this screen are an inch.</p>
      <div class="d-flex justify-end ga-2">
        <v-btn @click="open = false">Cancel</v-btn>
        <v-btn color="primary" variant="flat" @click="keep">They match</v-btn>
      </div>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.ruler {
  display: flex;
  flex-direction: column;
  gap: 12px;
}
.ruler .v-btn-toggle {
  align-self: start;
}
.stage {
  min-height: 240px;
  display: grid;
  align-items: center;
  overflow: hidden;
}
.card {
  border: 1.5px solid rgb(var(--v-theme-primary));
  background: rgba(var(--v-theme-primary), 0.12);
}
.line {
  display: flex;
  justify-content: space-between;
  align-items: end;
  height: 30px;
  border-bottom: 1.5px solid rgb(var(--v-theme-primary));
}
.line i {
  width: 1px;
  height: 12px;
  background: rgb(var(--v-theme-primary));
}
.line .long {
  height: 24px;
}
</style>
