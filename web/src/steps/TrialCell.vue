<script setup lang="ts">
import type { Step, Take } from '../takes/useTake'
import { useTrial } from './useTrial'

const props = defineProps<{ take: Take; steps: Step[]; label: string }>()
/** CSS px: two of them fit side by side above the controls. */
const size = { width: 118, height: 96 }
const { source, state, message } = useTrial(
  () => props.take,
  () => props.steps,
  size,
)
</script>

<template>
  <span class="cell" role="img" :aria-label="label" :data-state="state">
    <img v-if="source" :src="source" :class="{ old: state !== 'there' }" alt="" draggable="false" />
    <span v-if="state !== 'there'" class="told small" :title="message">{{
      state === 'failed' ? 'not computed' : 'computing'
    }}</span>
  </span>
</template>

<style scoped>
.cell {
  position: relative;
  display: block;
  height: 96px;
  overflow: hidden;
  background: rgb(var(--v-theme-background));
}
img {
  display: block;
  width: 100%;
  height: 100%;
  object-fit: cover;
  image-rendering: pixelated;
}
.old {
  opacity: 0.6;
}
.told {
  position: absolute;
  left: 4px;
  bottom: 4px;
  padding: 0 6px;
  background: rgba(var(--v-theme-surface), 0.86);
  border-radius: 3px;
}
</style>
