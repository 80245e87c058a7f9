<script setup lang="ts">
import { computed, ref } from 'vue'

import { picked, type Drawn } from '../steps/useDrawing'
import type { Plan } from '../viewer/layer'
import type { View } from '../viewer/content'
import { usePlaces, type Point } from '../viewer/usePlaces'

const props = defineProps<{ plan: Plan; view: View; what: Drawn['what'] }>()
const emit = defineEmits<{ drawn: [drawn: Drawn]; zoom: [way: 1 | -1, about: { x: number; y: number }] }>()

const labels = {
  line: 'Draw the movement',
  area: 'Mark an area',
  face: 'Draw a face',
  grey: 'Pick a grey',
  hue: 'Pick a colour',
  range: 'Pick a colour of the mask',
  subject: 'Draw a box around the subject',
  patch: 'Pick where the patch takes from',
}
const hints = {
  line: 'Find a point of light that became a stroke, and draw along it',
  area: 'Mark a part with texture that is blurred as the rest should be read',
  face: 'Draw a box around a face, from brow to chin',
  grey: 'Click a place that should be grey, neither black nor white',
  hue: 'Click a colour that is to be changed',
  range: 'Click a colour that belongs to the mask',
  subject: 'Draw a box around it, not too tight',
  patch: 'Click the place whose texture it is to have',
}
const holder = ref<HTMLElement>()
const { onScreen, toSource } = usePlaces(holder, props)
const start = ref<Point | null>(null)
const end = ref<Point>([0, 0])

function down(event: PointerEvent) {
  if (event.button !== 0) return
  holder.value!.setPointerCapture(event.pointerId)
  start.value = end.value = onScreen(event)
}
function move(event: PointerEvent) {
  if (start.value) end.value = onScreen(event)
}
function up() {
  if (!start.value) return
  const [from, to] = [start.value, end.value]
  start.value = null
  if (picked.includes(props.what)) {
    emit('drawn', { what: props.what, start: toSource(to), end: toSource(to) })
    return
  }
  // A click is no line and no area.
  if (Math.hypot(to[0] - from[0], to[1] - from[1]) > 3)
    emit('drawn', { what: props.what, start: toSource(from), end: toSource(to) })
}
function turned(event: WheelEvent) {
  const [x, y] = onScreen(event)
  emit('zoom', event.deltaY < 0 ? 1 : -1, { x, y })
}
const box = computed(() => {
  const [x, y] = start.value ?? [0, 0]
  return {
    x: Math.min(x, end.value[0]),
    y: Math.min(y, end.value[1]),
    width: Math.abs(end.value[0] - x),
    height: Math.abs(end.value[1] - y),
  }
})
</script>

<template>
  <div
    ref="holder"
    class="draw"
    :aria-label="labels[what]"
    @pointerdown.prevent="down"
    @pointermove="move"
    @pointerup="up"
    @pointercancel="start = null"
    @wheel.prevent="turned"
  >
    <svg v-if="start && !picked.includes(what)" width="100%" height="100%" fill="none">
      <template v-for="under in [true, false]" :key="String(under)">
        <g :stroke="under ? 'rgba(0,0,0,0.7)' : '#fff'" :stroke-width="under ? 4 : 1.5">
          <line v-if="what === 'line'" :x1="start[0]" :y1="start[1]" :x2="end[0]" :y2="end[1]" />
          <rect v-else v-bind="box" />
        </g>
      </template>
      <circle
        v-for="point in what === 'line' ? [start, end] : []"
        :key="point.join()"
        :cx="point[0]"
        :cy="point[1]"
        r="3.5"
        fill="#fff"
        stroke="rgba(0,0,0,0.7)"
      />
    </svg>
    <p class="hint small">
      {{ hints[what] }}
      · Esc to stop
    </p>
  </div>
</template>

<style scoped>
.draw {
  position: absolute;
  inset: 0;
  cursor: crosshair;
  touch-action: none;
}
svg {
  display: block;
}
.hint {
  position: absolute;
  left: 50%;
  top: 10px;
  transform: translateX(-50%);
  padding: 2px 10px;
  white-space: nowrap;
  background: rgba(var(--v-theme-surface), 0.92);
  border-radius: 3px;
  pointer-events: none;
}
</style>
