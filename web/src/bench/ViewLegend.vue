<script setup lang="ts">
import { useProof } from '../proofs/useProof'
import type { Panes } from './usePanes'

/** What the colours in the view mean, and whether its pixels are those of the file. */
defineProps<{
  panes: Panes
  /** Whether a step's mask is shown. */
  masked: boolean
  working: boolean
  exact: boolean
}>()
const proof = useProof()
</script>

<template>
  <div class="corner small">
    <span v-if="panes.as === 'difference'" class="scale" aria-label="Scale of the difference">
      darker −{{ Math.round(127 / panes.gain) }} <i class="ramp" /> +{{ Math.round(127 / panes.gain) }} lighter, of 255
    </span>
    <span v-if="masked" class="scale"><i class="dot mask" /> where the step works</span>
    <span v-else-if="panes.as === 'clipping'" class="scale">
      <i class="dot high" /> clipped light <i class="dot low" /> clipped dark
    </span>
    <span v-if="panes.as === 'proof' && !masked" class="scale">
      soft proof<template v-if="proof.warn"> <i class="dot outside" /> cannot be printed</template>
    </span>
    <span class="state" role="status">
      <i v-if="working" class="turning" />
      {{ working ? 'computing' : exact ? 'exact' : 'approximate, zoomed out' }}
    </span>
  </div>
</template>

<style scoped>
.corner > span {
  padding: 2px 8px;
  font-size: 13px;
  background: rgba(var(--v-theme-surface), 0.86);
  border-radius: 3px;
}
.corner {
  position: absolute;
  right: 10px;
  bottom: 10px;
  display: flex;
  gap: 6px;
  pointer-events: none;
}
.state,
.scale {
  display: flex;
  gap: 6px;
  align-items: center;
}
/* In steps: it turns for as long as the processor has better things to do than to draw it. */
.turning {
  width: 14px;
  height: 14px;
  border: 2px solid currentColor;
  border-left-color: transparent;
  border-radius: 50%;
  animation: turning 1s steps(8) infinite;
}
@keyframes turning {
  to {
    transform: rotate(1turn);
  }
}
.ramp {
  width: 64px;
  height: 10px;
  background: linear-gradient(90deg, #000, #808080, #fff);
}
.dot {
  width: 10px;
  height: 10px;
}
.dot.outside {
  background: #808080;
}
.mask {
  background: #f240bf;
}
.high {
  background: #ff261a;
}
.low {
  background: #1a73ff;
}
</style>
