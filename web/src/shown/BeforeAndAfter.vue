<script setup lang="ts">
import { computed, onBeforeUnmount, ref } from 'vue'

import type { Schemas } from '../api/client'

const props = defineProps<{
  before: string
  after: string
  width: number
  height: number
  name: string
  notes: Schemas['ClientNote'][]
  /** Where a note is being written. */
  place: { x: number; y: number } | null
  /** Whether places can be pointed at. */
  pointing: boolean
}>()
const emit = defineEmits<{ point: [place: { x: number; y: number }] }>()

/** Percent of the width that shows it before. */
const shown = ref(50)
const area = ref<HTMLElement>()
const longMilliseconds = 550
/** A finger that moves farther than this drags, px. */
const slip = 8

const clip = computed(() => ({ clipPath: `inset(0 ${100 - shown.value}% 0 0)` }))

function placeOf(event: MouseEvent) {
  const box = area.value!.getBoundingClientRect()
  const within = (value: number) => Math.min(1, Math.max(0, value))
  return { x: within((event.clientX - box.left) / box.width), y: within((event.clientY - box.top) / box.height) }
}

let held: ReturnType<typeof setTimeout> | undefined
let begun = { x: 0, y: 0 }
function press(event: PointerEvent) {
  if (event.button !== 0) return
  begun = { x: event.clientX, y: event.clientY }
  area.value!.setPointerCapture(event.pointerId)
  const place = placeOf(event)
  clearTimeout(held)
  // While a note is being written, its place follows the finger.
  if (props.place) return emit('point', place)
  if (props.pointing) held = setTimeout(() => emit('point', place), longMilliseconds)
}
function move(event: PointerEvent) {
  if (!event.buttons) return
  if (props.place) return emit('point', placeOf(event))
  if (Math.hypot(event.clientX - begun.x, event.clientY - begun.y) > slip) clearTimeout(held)
  shown.value = 100 * placeOf(event).x
}
const release = () => clearTimeout(held)
onBeforeUnmount(release)
const at = ({ x, y }: { x: number; y: number }) => ({ left: `${100 * x}%`, top: `${100 * y}%` })
</script>

<template>
  <div class="pair" :style="{ maxWidth: `${(72 * width) / height}vh` }">
    <div
      ref="area"
      class="area"
      :style="{ aspectRatio: `${width} / ${height}` }"
      @pointerdown="press"
      @pointermove="move"
      @pointerup="release"
      @pointercancel="release"
      @dblclick="pointing && emit('point', placeOf($event))"
      @contextmenu.prevent
    >
      <img :src="after" :width="width" :height="height" :alt="`${name}, after`" draggable="false" />
      <img
        :src="before"
        :width="width"
        :height="height"
        :alt="`${name}, before`"
        draggable="false"
        class="before"
        :style="clip"
      />
      <span class="seam" :style="{ left: `${shown}%` }" aria-hidden="true" />
      <span class="tag left" aria-hidden="true">before</span>
      <span class="tag right" aria-hidden="true">after</span>
      <span v-for="(note, index) in notes" :key="index" class="pin" :style="at(note)" aria-hidden="true">{{
        index + 1
      }}</span>
      <span v-if="place" class="pin new" :style="at(place)" aria-hidden="true">+</span>
    </div>
    <input
      v-model.number="shown"
      type="range"
      min="0"
      max="100"
      step="1"
      :aria-label="`How much of ${name} is shown before`"
      :aria-valuetext="`${Math.round(shown)} % before`"
    />
  </div>
</template>

<style scoped>
.pair {
  display: flex;
  flex-direction: column;
  gap: 4px;
}
.area {
  position: relative;
  width: 100%;
  overflow: hidden;
  cursor: ew-resize;
  touch-action: pan-y pinch-zoom;
  user-select: none;
  -webkit-touch-callout: none;
}
img {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
.seam {
  position: absolute;
  top: 0;
  bottom: 0;
  width: 2px;
  margin-left: -1px;
  background: #fff;
  box-shadow: 0 0 0 1px rgba(0, 0, 0, 0.45);
  pointer-events: none;
}
.tag {
  position: absolute;
  bottom: 8px;
  padding: 0 8px;
  font-size: 14px;
  background: rgba(0, 0, 0, 0.72);
  border-radius: 3px;
  pointer-events: none;
}
.left {
  left: 8px;
}
.right {
  right: 8px;
}
.pin {
  position: absolute;
  width: 26px;
  height: 26px;
  margin: -13px 0 0 -13px;
  border-radius: 50%;
  background: #fff;
  color: #111;
  font:
    600 14px/26px 'IBM Plex Sans',
    sans-serif;
  text-align: center;
  box-shadow: 0 0 0 2px rgba(0, 0, 0, 0.55);
  pointer-events: none;
}
.new {
  background: var(--accent);
}
input {
  width: 100%;
  min-height: 28px;
  accent-color: var(--accent);
}
</style>
