<script setup lang="ts">
import type { Step, Take } from '../takes/useTake'
import { inResult, type OneFace } from './faces'
import { useTrial } from './useTrial'

const props = defineProps<{ take: Take; steps: Step[]; face: OneFace; label: string }>()
/** CSS px: two of them fit beside the rest of a row. */
const side = 64
const largest = 2048

/** The face's square as it lies in the output, all of it. */
const { source, state, message } = useTrial(
  () => props.take,
  () => props.steps,
  { width: side, height: side },
  () => {
    const { plan } = props.take
    if (!plan) return null
    const { x, y, side: wanted } = inResult(props.face, plan)
    const across = Math.max(8, Math.min(largest, Math.round(0.8 * wanted)))
    return { x: x / plan.size.width, y: y / plan.size.height, width: across, height: across }
  },
)
</script>

<template>
  <span
    class="cell"
    role="img"
    :aria-label="label"
    :data-state="state"
    :title="state === 'failed' ? message : undefined"
  >
    <img v-if="source" :src="source" :class="{ old: state !== 'there' }" alt="" draggable="false" />
  </span>
</template>

<style scoped>
.cell {
  display: block;
  width: 64px;
  height: 64px;
  overflow: hidden;
  background: rgb(var(--v-theme-background));
}
img {
  display: block;
  width: 100%;
  height: 100%;
  object-fit: cover;
}
.old {
  opacity: 0.6;
}
</style>
