<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Plan } from '../viewer/layer'
import type { View } from '../viewer/content'
import { usePlaces, type Point } from '../viewer/usePlaces'
import { resized, useBrush, type Stroke } from './useBrush'

const props = defineProps<{
  plan: Plan
  view: View
  /** Strokes that were made and do not show by themselves. */
  made?: readonly Stroke[]
}>()
const emit = defineEmits<{ stroke: [stroke: Stroke]; zoom: [way: 1 | -1, about: { x: number; y: number }] }>()
const { brush } = useBrush()

const holder = ref<HTMLElement>()
const { onScreen, toSource, onPane, screenScale, sourceScale } = usePlaces(holder, props)
const radius = computed(() => (brush.size / 2 / sourceScale.value) * screenScale.value)

const pointer = ref<Point | null>(null)
const trail = ref<Point[]>([])
const erasing = ref(false)

function down(event: PointerEvent) {
  if (event.button !== 0) return
  holder.value!.setPointerCapture(event.pointerId)
  erasing.value = event.shiftKey
  trail.value = [onScreen(event)]
}
function move(event: PointerEvent) {
  const now = onScreen(event)
  pointer.value = now
  const last = trail.value.at(-1)
  // Points nearer than a tenth of the brush add nothing to its line.
  if (last && Math.hypot(now[0] - last[0], now[1] - last[1]) > Math.max(1.5, radius.value / 5))
    trail.value = [...trail.value, now]
}
function up() {
  if (!trail.value.length) return
  const { size, softness, strength, edges } = brush
  const points = trail.value.slice(0, 4000).map(toSource)
  emit('stroke', { points, size, softness, strength, edges, erase: brush.erase !== erasing.value })
  trail.value = []
}
function wheel(event: WheelEvent) {
  if (event.altKey) brush.size = resized(brush.size, event.deltaY < 0 ? 1 : -1)
  else {
    const [x, y] = onScreen(event)
    emit('zoom', event.deltaY < 0 ? 1 : -1, { x, y })
  }
}
/** A line of a single point is drawn twice, or nothing would be. */
const joined = (points: Point[]) =>
  (points.length > 1 ? points : [...points, ...points]).map((point) => point.join(',')).join(' ')
/** What was made, and what is being painted, as lines on the pane. */
const lines = computed(() => {
  const made = (props.made ?? []).map(({ points, size, erase }) => ({
    points: joined((points as Point[]).map(onPane)),
    width: (size / sourceScale.value) * screenScale.value,
    erase,
  }))
  if (!trail.value.length) return made
  return [...made, { points: joined(trail.value), width: radius.value * 2, erase: brush.erase !== erasing.value }]
})
</script>

<template>
  <div
    ref="holder"
    class="paint"
    aria-label="Paint the mask"
    @pointerdown.prevent="down"
    @pointermove="move"
    @pointerup="up"
    @pointercancel="trail = []"
    @pointerleave="pointer = null"
    @wheel.prevent="wheel"
  >
    <svg width="100%" height="100%">
      <polyline
        v-for="(line, place) in lines"
        :key="place"
        :points="line.points"
        fill="none"
        :stroke="line.erase ? '#ffffff' : '#f240bf'"
        :stroke-width="line.width"
        stroke-linecap="round"
        stroke-linejoin="round"
        opacity="0.4"
      />
      <g v-if="pointer" fill="none">
        <circle :cx="pointer[0]" :cy="pointer[1]" :r="radius" stroke="rgba(0,0,0,0.7)" stroke-width="2.5" />
        <circle :cx="pointer[0]" :cy="pointer[1]" :r="radius" stroke="#fff" stroke-width="1" />
        <circle
          v-if="brush.softness > 3"
          :cx="pointer[0]"
          :cy="pointer[1]"
          :r="radius * (1 - brush.softness / 100)"
          stroke="rgba(255,255,255,0.6)"
          stroke-width="1"
          stroke-dasharray="3 3"
        />
      </g>
    </svg>
  </div>
</template>

<style scoped>
.paint {
  position: absolute;
  inset: 0;
  cursor: none;
  touch-action: none;
}
svg {
  display: block;
}
</style>
