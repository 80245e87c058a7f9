<script setup lang="ts">
import { mdiCircleHalfFull, mdiKeyboardOutline } from '@mdi/js'
import { computed, ref, watch } from 'vue'

import AsPrint from '../prints/AsPrint.vue'
import { useKeys } from '../parts/useKeys'
import { useSurround } from '../parts/useSurround'
import { useBench } from './useBench'
import { comparisons } from './usePanes'

const { panes, zoom, take, ppi, open, view } = useBench()
const { next: nextSurround } = useSurround()
const plan = computed(() => take.value?.plan)

/** Zooms that have a key and a button of their own. */
const scales = [0.25, 0.5, 1, 2, 4, 8]
const keyOf = (scale: number) => (scale === 0.25 ? '9' : String(scales.indexOf(scale)))
const asPrint = ref<InstanceType<typeof AsPrint>>()
const typed = ref('')
const told = () => (zoom.value < 0.1 ? (zoom.value * 100).toFixed(1) : String(Math.round(zoom.value * 100)))
watch(zoom, () => (typed.value = told()), { immediate: true })
const zoomTo = (scale: number) => view.value?.zoomTo(scale)
function zoomTyped() {
  const to = Number(typed.value.replace(',', '.').replace('%', '')) / 100
  if (to >= 0.01 && to <= 64) zoomTo(to)
  else typed.value = told()
}

useKeys(() => [
  {
    key: 'o',
    shown: 'O, held',
    does: 'see the original',
    group: 'compare',
    run: () => panes.hold(true),
    release: () => panes.hold(false),
  },
  { key: 'c', shown: 'C', does: 'one, divider, two, four', group: 'compare', run: panes.compareNext },
  { key: 'a', shown: 'A', does: 'blink with what stands beside', group: 'compare', run: panes.blink },
  { key: 'w', shown: 'W', does: 'another take beside', group: 'compare', run: () => panes.swap(0) },
  ...[2, 3, 4].map((place) => ({
    key: `alt+${place}`,
    shown: 'Alt 1 … 4',
    does: 'another take in that pane',
    group: 'compare' as const,
    run: () => panes.swap(place - 2),
  })),
  { key: 'x', shown: 'X', does: 'difference', group: 'compare', run: () => panes.showAs('difference') },
  { key: 'm', shown: 'M', does: 'mark what is clipped', group: 'look', run: () => panes.showAs('clipping') },
  { key: 'shift+j', shown: 'Shift J', does: 'soft proof', group: 'prints and files', run: () => panes.showAs('proof') },
  { key: 'h', shown: 'H', does: 'histogram', group: 'look', run: () => (open.histogram = !open.histogram) },
  { key: 'y', shown: 'Y', does: 'fidelity report', group: 'compare', run: () => (open.fidelity = !open.fidelity) },
  {
    key: 'shift+n',
    shown: 'Shift N',
    does: 'what the client noted',
    group: 'prints and files',
    run: () => (open.client = !open.client),
  },
  { key: '0', shown: '0', does: 'fit the picture', group: 'look', run: () => view.value?.fit() },
  ...scales.map((scale) => ({
    key: keyOf(scale),
    shown: keyOf(scale),
    does: `${scale * 100} %`,
    group: 'look' as const,
    run: () => zoomTo(scale),
  })),
  { key: '+', shown: '+', does: 'zoom in', group: 'look', run: () => view.value?.stepZoom(1) },
  { key: '-', shown: '−', does: 'zoom out', group: 'look', run: () => view.value?.stepZoom(-1) },
  {
    key: '6',
    shown: '6',
    does: 'true size of the print',
    group: 'prints and files',
    run: () => asPrint.value?.trueSize(),
  },
  {
    key: '7',
    shown: '7',
    does: 'the print from its distance',
    group: 'prints and files',
    run: () => asPrint.value?.fromFar(),
  },
])
</script>

<template>
  <footer class="foot">
    <div class="group" role="group" aria-label="Compare">
      <button
        v-for="one in comparisons"
        :key="one.value"
        :aria-pressed="panes.comparing === one.value"
        title="Compare (C)"
        @click="panes.compare(one.value)"
      >
        {{ one.title }}
      </button>
    </div>
    <v-menu>
      <template #activator="{ props: opener }">
        <button
          v-bind="opener"
          class="hold"
          aria-label="Beside"
          title="What stands beside, blinks and is subtracted (W)"
        >
          with {{ panes.second }} ▾
        </button>
      </template>
      <v-list density="compact">
        <v-list-item
          v-for="one in panes.choices"
          :key="one.id"
          :title="one.name"
          :active="panes.others[0] === one.id"
          @click="panes.put(one.id)"
        />
      </v-list>
    </v-menu>
    <button class="hold" :aria-pressed="panes.blinking" title="Blink (A)" @click="panes.blink()">blink</button>
    <div class="group" role="group" aria-label="Show">
      <button
        :aria-pressed="panes.as === 'difference'"
        title="Difference from what stands beside (X)"
        @click="panes.showAs('difference')"
      >
        difference
      </button>
      <button
        v-if="panes.as === 'difference'"
        title="How much it is amplified"
        aria-label="Amplification"
        @click="panes.amplify()"
      >
        ×{{ panes.gain }}
      </button>
      <button
        :aria-pressed="panes.as === 'clipping'"
        title="Mark what is clipped (M)"
        @click="panes.showAs('clipping')"
      >
        clipping
      </button>
      <button
        :aria-pressed="panes.as === 'proof'"
        title="Soft proof: as a printer would print it (Shift J)"
        @click="panes.showAs('proof')"
      >
        proof
      </button>
      <button :aria-pressed="open.histogram" title="Histogram (H)" @click="open.histogram = !open.histogram">
        tones
      </button>
      <button :aria-pressed="open.fidelity" title="Fidelity report (Y)" @click="open.fidelity = !open.fidelity">
        fidelity
      </button>
    </div>
    <button
      class="hold"
      title="Hold to see the original (O)"
      @pointerdown="panes.hold(true)"
      @pointerup="panes.hold(false)"
      @pointerleave="panes.hold(false)"
    >
      original
    </button>
    <v-spacer />
    <div class="group" role="group" aria-label="Zoom">
      <button title="Fit (0)" @click="view?.fit()">fit</button>
      <button
        v-for="scale in scales"
        :key="scale"
        :aria-pressed="Math.abs(zoom - scale) < 0.001"
        :title="`${scale * 100} % (${keyOf(scale)})`"
        :aria-label="`${scale * 100} %`"
        @click="zoomTo(scale)"
      >
        {{ scale * 100 }}
      </button>
    </div>
    <AsPrint
      v-if="plan"
      ref="asPrint"
      :size="plan.size"
      :ppi="ppi"
      @zoom="zoomTo"
      @measure="open.ruler = true"
      @page="open.page = true"
    />
    <span class="now"
      ><input
        v-model="typed"
        aria-label="Zoom in percent"
        inputmode="decimal"
        @keydown.enter="($event.target as HTMLInputElement).blur()"
        @blur="zoomTyped"
      />
      %</span
    >
    <v-btn
      :icon="mdiCircleHalfFull"
      size="x-small"
      aria-label="Next surround"
      title="Next surround grey (G)"
      @click="nextSurround"
    />
    <v-btn :icon="mdiKeyboardOutline" size="x-small" aria-label="Keys" title="Keys (?)" @click="open.sheet = true" />
  </footer>
</template>

<style scoped>
.foot {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 5px 12px;
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
