<script setup lang="ts">
import { computed, ref } from 'vue'

import { curvePoints, momentPoints, type Range } from './marks'
import type { Moment } from './queries'

/** The whole clip from left to right: a film strip, how sharp it is, what is marked, and where one looks. */
const props = defineProps<{
  clipId: string
  frames: number
  index: number
  range: Range | null
  sharpness: number[] | undefined
  peaks: number[]
  /** Where faces were looked at. */
  moments: Moment[]
}>()
const emit = defineEmits<{ go: [frame: number]; keys: [] }>()

const across = (frame: number) => (props.frames > 1 ? (100 * frame) / (props.frames - 1) : 0)
const points = computed(() => (props.sharpness?.length ? curvePoints(props.sharpness) : ''))

const bar = ref<HTMLElement>()
function at(event: PointerEvent) {
  const { left, width } = bar.value!.getBoundingClientRect()
  emit('go', Math.round(((event.clientX - left) / width) * (props.frames - 1)))
}
function down(event: PointerEvent) {
  bar.value!.setPointerCapture(event.pointerId)
  at(event)
}
function move(event: PointerEvent) {
  if (event.buttons & 1) at(event)
}
</script>

<template>
  <div class="all">
    <div
      ref="bar"
      class="bar"
      role="slider"
      tabindex="0"
      aria-label="Frame of the clip"
      aria-valuemin="1"
      :aria-valuemax="frames"
      :aria-valuenow="index + 1"
      @pointerdown="down"
      @pointermove="move"
      @keydown.left.prevent="emit('go', index - 1)"
      @keydown.right.prevent="emit('go', index + 1)"
    >
      <img :src="`/api/clips/${clipId}/strip`" alt="" draggable="false" />
      <svg v-if="points" viewBox="0 0 1 1" preserveAspectRatio="none" aria-hidden="true">
        <polyline :points="points" vector-effect="non-scaling-stroke" />
        <polyline
          v-if="moments.length"
          class="faces"
          :points="momentPoints(moments, frames)"
          vector-effect="non-scaling-stroke"
        />
      </svg>
      <i v-for="frame in peaks" :key="frame" class="peak" :style="{ left: `${across(frame)}%` }" />
      <i
        v-if="range"
        class="range"
        :style="{ left: `${across(range.first)}%`, right: `${100 - across(range.last)}%` }"
      />
      <i class="here" :style="{ left: `${across(index)}%` }" />
    </div>
    <span class="small quiet">
      <i class="key" /> how sharp it is<template v-if="moments.length">
        · <i class="key faces" /> eyes open, looking here</template
      >
      · <kbd>←</kbd> <kbd>→</kbd> frame by frame ·
      <button class="link" title="Keys (?)" @click="emit('keys')">all keys</button>
    </span>
  </div>
</template>

<style scoped>
.all {
  padding: 8px 16px 10px;
  border-top: 1px solid rgba(var(--v-theme-on-surface), 0.14);
  background: rgb(var(--v-theme-surface));
}
.bar {
  position: relative;
  cursor: ew-resize;
  touch-action: none;
  user-select: none;
}
img {
  display: block;
  width: 100%;
  height: 54px;
  object-fit: fill;
  opacity: 0.85;
}
svg {
  display: block;
  width: 100%;
  height: 44px;
  margin-top: 4px;
  background: rgba(var(--v-theme-on-surface), 0.06);
}
polyline {
  fill: none;
  stroke: rgb(var(--v-theme-primary));
  stroke-width: 1.5;
}
polyline.faces {
  stroke: rgb(var(--v-theme-on-surface));
  stroke-dasharray: 5 3;
}
.bar i {
  position: absolute;
  pointer-events: none;
}
.link {
  text-decoration: underline;
  cursor: pointer;
}
.key {
  display: inline-block;
  width: 18px;
  margin-right: 3px;
  vertical-align: middle;
  border-top: 2px solid rgb(var(--v-theme-primary));
}
.key.faces {
  border-top: 2px dashed rgb(var(--v-theme-on-surface));
}
.here {
  top: -4px;
  bottom: -4px;
  width: 2px;
  margin-left: -1px;
  background: rgb(var(--v-theme-on-surface));
}
.peak {
  bottom: 0;
  width: 7px;
  height: 7px;
  margin-left: -3.5px;
  border-radius: 50%;
  background: rgb(var(--v-theme-primary));
}
.range {
  top: 0;
  bottom: 0;
  min-width: 2px;
  background: rgba(var(--v-theme-primary), 0.22);
  border-inline: 2px solid rgb(var(--v-theme-primary));
}
</style>
