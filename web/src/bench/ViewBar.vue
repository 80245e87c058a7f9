<script setup lang="ts">
import { mdiCircleHalfFull, mdiKeyboardOutline } from '@mdi/js'
import { ref, watch } from 'vue'

import AsPrint from '../prints/AsPrint.vue'
import type { Plan } from './layer'
import { comparisons, type Panes } from './usePanes'

const props = defineProps<{
  panes: Panes
  zoom: number
  /** Zooms that have a key and a button of their own. */
  scales: number[]
  plan: Plan | null | undefined
  ppi: number
}>()
const histogram = defineModel<boolean>('histogram', { required: true })
const fidelity = defineModel<boolean>('fidelity', { required: true })
const emit = defineEmits<{ fit: []; zoomTo: [scale: number]; measure: []; page: []; surround: []; keys: [] }>()

const asPrint = ref<InstanceType<typeof AsPrint>>()
const typed = ref('')
const told = () => (props.zoom < 0.1 ? (props.zoom * 100).toFixed(1) : String(Math.round(props.zoom * 100)))
watch(() => props.zoom, () => (typed.value = told()), { immediate: true })
function zoomTyped() {
  const to = Number(typed.value.replace(',', '.').replace('%', '')) / 100
  if (to >= 0.01 && to <= 64) emit('zoomTo', to)
  else typed.value = told()
}
defineExpose({ trueSize: () => asPrint.value?.trueSize(), fromFar: () => asPrint.value?.fromFar() })
</script>

<template>
  <footer class="foot">
    <div class="group" role="group" aria-label="Compare">
      <button v-for="one in comparisons" :key="one.value" :aria-pressed="panes.comparing === one.value" title="Compare (C)" @click="panes.compare(one.value)">{{ one.title }}</button>
    </div>
    <v-menu>
      <template #activator="{ props: opener }">
        <button v-bind="opener" class="hold" aria-label="Beside" title="What stands beside, blinks and is subtracted (W)">with {{ panes.second }} ▾</button>
      </template>
      <v-list density="compact">
        <v-list-item v-for="one in panes.choices" :key="one.id" :title="one.name" :active="panes.others[0] === one.id" @click="panes.put(one.id)" />
      </v-list>
    </v-menu>
    <button class="hold" :aria-pressed="panes.blinking" title="Blink (A)" @click="panes.blink()">blink</button>
    <div class="group" role="group" aria-label="Show">
      <button :aria-pressed="panes.as === 'difference'" title="Difference from what stands beside (X)" @click="panes.showAs('difference')">difference</button>
      <button v-if="panes.as === 'difference'" title="How much it is amplified" aria-label="Amplification" @click="panes.amplify()">×{{ panes.gain }}</button>
      <button :aria-pressed="panes.as === 'clipping'" title="Mark what is clipped (M)" @click="panes.showAs('clipping')">clipping</button>
      <button :aria-pressed="panes.as === 'proof'" title="Soft proof: as a printer would print it (Shift J)" @click="panes.showAs('proof')">proof</button>
      <button :aria-pressed="histogram" title="Histogram (H)" @click="histogram = !histogram">tones</button>
      <button :aria-pressed="fidelity" title="Fidelity report (Y)" @click="fidelity = !fidelity">fidelity</button>
    </div>
    <button class="hold" title="Hold to see the original (O)" @pointerdown="panes.hold(true)" @pointerup="panes.hold(false)" @pointerleave="panes.hold(false)">original</button>
    <v-spacer />
    <div class="group" role="group" aria-label="Zoom">
      <button title="Fit (0)" @click="emit('fit')">fit</button>
      <button v-for="(scale, index) in scales" :key="scale" :aria-pressed="Math.abs(zoom - scale) < 0.001" :title="`${scale * 100} % (${index + 1})`" :aria-label="`${scale * 100} %`" @click="emit('zoomTo', scale)">{{ scale * 100 }}</button>
    </div>
    <AsPrint v-if="plan" ref="asPrint" :size="plan.size" :ppi="ppi" @zoom="emit('zoomTo', $event)" @measure="emit('measure')" @page="emit('page')" />
    <span class="now"><input v-model="typed" aria-label="Zoom in percent" inputmode="decimal" @keydown.enter="zoomTyped" @blur="zoomTyped" /> %</span>
    <v-btn :icon="mdiCircleHalfFull" size="x-small" aria-label="Next surround" title="Next surround grey (G)" @click="emit('surround')" />
    <v-btn :icon="mdiKeyboardOutline" size="x-small" aria-label="Keys" title="Keys (?)" @click="emit('keys')" />
  </footer>
</template>

<style scoped>
.foot {
  display: flex;
  align-items: center;
  gap: 12px;
  padding: 5px 12px;
  background: rgb(var(--v-theme-surface));
  border-top: 1px solid rgba(var(--v-theme-on-surface), 0.14);
}
.group {
  display: flex;
  border: 1px solid rgba(var(--v-theme-on-surface), 0.26);
  border-radius: 4px;
  overflow: hidden;
}
.group button,
.hold {
  padding: 3px 8px;
  font-size: 13px;
  white-space: nowrap;
  cursor: pointer;
}
.group button + button {
  border-left: 1px solid rgba(var(--v-theme-on-surface), 0.26);
}
.group button[aria-pressed='true'] {
  background: rgba(var(--v-theme-on-surface), 0.16);
  font-weight: 600;
}
.hold {
  border: 1px solid rgba(var(--v-theme-on-surface), 0.26);
  border-radius: 4px;
  user-select: none;
}
.hold:active,
.hold[aria-pressed='true'] {
  background: rgba(var(--v-theme-on-surface), 0.16);
}
.now {
  white-space: nowrap;
}
.now input {
  width: 40px;
  padding: 1px 4px;
  text-align: right;
  border: 1px solid rgba(var(--v-theme-on-surface), 0.26);
  border-radius: 4px;
}
</style>
