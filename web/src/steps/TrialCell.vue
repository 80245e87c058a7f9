<script setup lang="ts">
import type { Step, Take } from '../takes/useTake'
import { useTrial, type Cut } from './useTrial'

/** Two cells of the usual size, in CSS px, fit side by side above the controls. */
const props = withDefaults(
  defineProps<{ take: Take; steps: Step[]; label: string; width?: number; height?: number; cut?: () => Cut | null }>(),
  { width: 118, height: 96, cut: undefined },
)
const { source, state, message } = useTrial(
  () => props.take,
  () => props.steps,
  props,
  props.cut,
)
</script>

<template>
  <span class="cell" :style="{ height: `${height}px` }" role="img" :aria-label="label" :data-state="state">
    <img v-if="source" :src="source" :class="{ old: state !== 'there' }" alt="" draggable="false" />
    <span v-if="state !== 'there' && width > 80" class="told small" :title="message">{{
      state === 'failed' ? 'not computed' : 'computing'
    }}</span>
  </span>
</template>

<style scoped>
.cell {
  position: relative;
  display: block;
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
