<script setup lang="ts">
import { computed, ref } from 'vue'

import { curveThrough, movedPoint, straight, withoutPoint, withPoint, type Point } from './monotone'

/** A curve over the tones it changes: click to put a point, drag it, double-click or Del to take it away. */
const props = defineProps<{
  label: string
  points: Point[]
  /** How often each tone occurs, dark to light, a list a channel. */
  counts: { colour: string; counts: number[] }[]
  /** Share of the pixels that lie beyond black and beyond white. */
  clipped: [number, number]
}>()
const emit = defineEmits<{ change: [points: Point[], now?: boolean] }>()

const side = 256
const ends: Point[] = [
  [0, 0],
  [1, 1],
]
const shown = computed(() => (props.points.length ? props.points : ends))
const dragged = ref<number | null>(null)
const square = ref<SVGSVGElement>()

const line = computed(() => {
  const curve = curveThrough(shown.value)
  return Array.from({ length: 129 }, (_, index) => {
    const x = index / 128
    return `${(x * side).toFixed(1)},${((1 - Math.max(-0.05, Math.min(1.05, curve(x)))) * side).toFixed(1)}`
  }).join(' ')
})
const most = computed(() => Math.max(1, ...props.counts.flatMap(({ counts }) => counts.slice(2, -2))))
const tones = computed(() =>
  props.counts.map(({ colour, counts }) => {
    const points = counts.map((count, tone) => `${tone},${(side - Math.min(1, count / most.value) * side).toFixed(1)}`)
    return { colour, path: `M0,${side} L${points.join(' L')} L${side},${side} Z` }
  }),
)

function placeOf(event: PointerEvent): Point {
  const box = square.value!.getBoundingClientRect()
  return [(event.clientX - box.left) / box.width, 1 - (event.clientY - box.top) / box.height]
}
/** A curve that does nothing is none. */
function change(points: Point[], now: boolean) {
  emit('change', now && straight(points) ? [] : points, now)
}
function down(event: PointerEvent) {
  if (event.button !== 0) return
  const place = placeOf(event)
  const near = shown.value.findIndex(([x, y]) => Math.hypot(x - place[0], y - place[1]) < 0.05)
  square.value!.setPointerCapture(event.pointerId)
  if (near >= 0) {
    dragged.value = near
    return
  }
  const points = withPoint(shown.value, place)
  if (points === shown.value) return
  dragged.value = points.findIndex(([x]) => Math.abs(x - place[0]) < 0.002)
  change(points, false)
}
function move(event: PointerEvent) {
  if (dragged.value !== null) change(movedPoint(shown.value, dragged.value, placeOf(event)), false)
}
function up() {
  if (dragged.value === null) return
  dragged.value = null
  change(shown.value, true)
}
function remove(place: number) {
  change(withoutPoint(shown.value, place), true)
}
function pressed(event: KeyboardEvent, place: number) {
  const step = event.shiftKey ? 0.05 : event.altKey ? 0.001 : 0.01
  const ways: Record<string, Point> = {
    ArrowLeft: [-step, 0],
    ArrowRight: [step, 0],
    ArrowUp: [0, step],
    ArrowDown: [0, -step],
  }
  const way = ways[event.key]
  if (way) {
    const [x, y] = shown.value[place]!
    change(movedPoint(shown.value, place, [x + way[0], y + way[1]]), true)
  } else if (event.key === 'Delete' || event.key === 'Backspace') remove(place)
  else return
  event.preventDefault()
  event.stopPropagation()
}
</script>

<template>
  <div class="editor" :aria-label="label" role="group">
    <svg
      ref="square"
      :viewBox="`0 0 ${side} ${side}`"
      preserveAspectRatio="none"
      @pointerdown.prevent="down"
      @pointermove="move"
      @pointerup="up"
      @pointercancel="up"
    >
      <path v-for="one in tones" :key="one.colour" :d="one.path" :fill="one.colour" fill-opacity="0.3" />
      <path class="thirds" :d="`M${side / 4},0 V${side} M${side / 2},0 V${side} M${(3 * side) / 4},0 V${side}`" />
      <path class="thirds" :d="`M0,${side / 4} H${side} M0,${side / 2} H${side} M0,${(3 * side) / 4} H${side}`" />
      <path class="rest" :d="`M0,${side} L${side},0`" />
      <rect v-if="clipped[0] > 0.0005" class="end" x="0" y="0" width="3" :height="side">
        <title>{{ (100 * clipped[0]).toFixed(1) }} % lie at black or below</title>
      </rect>
      <rect v-if="clipped[1] > 0.0005" class="end" :x="side - 3" y="0" width="3" :height="side">
        <title>{{ (100 * clipped[1]).toFixed(1) }} % lie at white or beyond</title>
      </rect>
      <polyline :points="line" fill="none" />
    </svg>
    <button
      v-for="([x, y], place) in shown"
      :key="place"
      type="button"
      class="point"
      :style="{ left: `${100 * x}%`, top: `${100 * (1 - y)}%` }"
      :aria-label="`Point at ${Math.round(100 * x)} %, given out as ${Math.round(100 * y)} %`"
      :title="`${Math.round(100 * x)} % → ${Math.round(100 * y)} %; arrow keys move it, Del takes it away`"
      @pointerdown="down"
      @pointermove="move"
      @pointerup="up"
      @dblclick="remove(place)"
      @keydown="pressed($event, place)"
    />
  </div>
</template>

<style scoped>
.editor {
  position: relative;
  height: 190px;
}
svg {
  display: block;
  width: 100%;
  height: 100%;
  background: #1a1a1a;
  cursor: crosshair;
  touch-action: none;
  overflow: hidden;
}
.thirds {
  stroke: rgba(255, 255, 255, 0.08);
  vector-effect: non-scaling-stroke;
}
.rest {
  stroke: rgba(255, 255, 255, 0.25);
  stroke-dasharray: 3 4;
  vector-effect: non-scaling-stroke;
}
.end {
  fill: rgb(var(--v-theme-warning));
}
polyline {
  stroke: #f4f4f4;
  stroke-width: 1.6;
  vector-effect: non-scaling-stroke;
}
.point {
  position: absolute;
  width: 11px;
  height: 11px;
  margin: -5.5px 0 0 -5.5px;
  background: rgb(var(--v-theme-primary));
  border: 1.5px solid #fff;
  transform: rotate(45deg);
  cursor: grab;
  touch-action: none;
}
.point:focus-visible {
  outline: 2px solid #fff;
  outline-offset: 2px;
}
</style>
