<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import { useNotice } from '../parts/useNotice'
import type { Frame } from '../steps/frame'
import { cornered, fromCanvas, toCanvas, uprighted, useGuides, type Four, type Line } from '../steps/guides'
import { undistorted, warped, type MappingPart, type Point } from '../viewer/mapping'

/**
 * Lines that should be upright or level, or four corners, drawn over the turned picture; its distortion is undone, its
 * perspective is as it came. `scale` is how many CSS pixels one of the picture takes.
 */
const props = defineProps<{
  step: Frame
  source: { width: number; height: number }
  left: number
  top: number
  scale: number
  /** Of the plan: how distortion is undone now, if it is. */
  warp: MappingPart['warp'] | null
}>()
const emit = defineEmits<{ change: [step: Frame, now: boolean] }>()

const guides = useGuides()
const notice = useNotice()
const svg = ref<SVGSVGElement>()
const drawn = ref<Line | null>(null)
const canvas = computed(() =>
  props.step.turns % 2 ? { width: props.source.height, height: props.source.width } : props.source,
)

function place(event: PointerEvent): Point {
  const corner = svg.value!.getBoundingClientRect()
  return [
    (event.clientX - corner.left - props.left) / props.scale,
    (event.clientY - corner.top - props.top) / props.scale,
  ]
}
const onScreen = ([x, y]: Point): Point => [props.left + x * props.scale, props.top + y * props.scale]
/** Follow the pointer until it is let go. */
function follow(event: PointerEvent, moved: (point: Point) => void, done: () => void) {
  const surface = event.currentTarget as SVGElement
  surface.setPointerCapture(event.pointerId)
  const move = (now: PointerEvent) => moved(place(now))
  surface.addEventListener('pointermove', move)
  surface.addEventListener('pointerup', () => (surface.removeEventListener('pointermove', move), done()), {
    once: true,
  })
}

function drawLine(event: PointerEvent) {
  if (guides.drawing !== 'lines' || event.button !== 0) return
  const from = place(event)
  drawn.value = [from, from]
  follow(event, (to) => (drawn.value = [from, to]), addLine)
}
function addLine() {
  const [from, to] = drawn.value!
  drawn.value = null
  // A click is no line.
  if (Math.hypot(to[0] - from[0], to[1] - from[1]) * props.scale < 12) return
  guides.lines = [...guides.lines, [from, to].map((point) => fromCanvas(props.step, props.source, point)) as Line]
  const step = uprighted(props.step, props.source, guides.lines)
  if (step) emit('change', step, true)
  else {
    guides.lines = guides.lines.slice(0, -1)
    notice.fault(new Error('These lines part too strongly to be made parallel; draw along others.'))
  }
}
const lines = computed(() => [
  ...guides.lines.map((line) => line.map((point) => onScreen(toCanvas(props.step, props.source, point))) as Line),
  ...(drawn.value ? [drawn.value.map(onScreen) as Line] : []),
])

/** Where the corners are put down: on those that are set, else a little inside the picture. */
const four = ref<Four>([
  [0, 0],
  [0, 0],
  [0, 0],
  [0, 0],
])
const clear = (point: Point): Point => (props.warp ? undistorted(props.warp, point) : point)
watch(
  () => guides.drawing,
  () => {
    const { width, height } = canvas.value
    const shares: Four = [
      [0.2, 0.2],
      [0.8, 0.2],
      [0.8, 0.8],
      [0.2, 0.8],
    ]
    const set = props.step.corners?.map((point) => toCanvas(props.step, props.source, clear(point as Point)))
    four.value = (set ?? shares.map(([x, y]) => [x * width, y * height])) as Four
  },
  { immediate: true },
)
const outline = computed(() => four.value.map((point) => onScreen(point).join(',')).join(' '))
function moveCorner(event: PointerEvent, index: number) {
  const held = (length: number, value: number) => Math.max(0, Math.min(length, value))
  follow(
    event,
    ([x, y]) =>
      (four.value = four.value.with(index, [held(canvas.value.width, x), held(canvas.value.height, y)]) as Four),
    () => undefined,
  )
}
const straight = [1, 0, 0, 0, 1, 0, 0, 0, 1]
function useCorners() {
  const seen = (point: Point) => (props.warp ? warped({ ...props.warp, matrix: straight }, point) : point)
  emit('change', cornered(props.step, props.source, four.value, seen), true)
  guides.drawing = null
}
function takeBack() {
  guides.lines = guides.lines.slice(0, -1)
  const step = uprighted(props.step, props.source, guides.lines)
  emit('change', step ?? { ...props.step, vertical: 0, horizontal: 0, angle: 0 }, true)
}
</script>

<template>
  <div class="guides">
    <svg ref="svg" width="100%" height="100%" :aria-label="guides.drawing === 'lines' ? 'Guide lines' : 'Four corners'">
      <rect class="surface" width="100%" height="100%" @pointerdown.prevent="drawLine" />
      <template v-if="guides.drawing === 'lines'">
        <template v-for="under in [true, false]" :key="String(under)">
          <line
            v-for="([from, to], index) in lines"
            :key="index"
            :x1="from[0]"
            :y1="from[1]"
            :x2="to[0]"
            :y2="to[1]"
            :stroke="under ? 'rgba(0,0,0,0.7)' : '#fff'"
            :stroke-width="under ? 4 : 1.5"
          />
        </template>
      </template>
      <template v-else>
        <polygon :points="outline" fill="none" stroke="rgba(0,0,0,0.7)" stroke-width="4" />
        <polygon :points="outline" fill="none" stroke="#fff" stroke-width="1.5" />
        <circle
          v-for="(point, index) in four"
          :key="index"
          class="corner"
          :cx="onScreen(point)[0]"
          :cy="onScreen(point)[1]"
          r="8"
          :data-corner="index"
          @pointerdown.prevent="moveCorner($event, index)"
        />
      </template>
    </svg>
    <div class="told">
      <span class="small">{{
        guides.drawing === 'lines'
          ? 'Draw along two edges that should be upright, or level, or both'
          : 'Put the corners on those of something that should be a rectangle'
      }}</span>
      <v-btn
        v-if="guides.drawing === 'lines'"
        size="small"
        variant="text"
        :disabled="!guides.lines.length"
        @click="takeBack"
        >Take one back</v-btn
      >
      <v-btn v-if="guides.drawing === 'corners'" size="small" variant="flat" color="primary" @click="useCorners"
        >Make it a rectangle</v-btn
      >
      <v-btn size="small" variant="text" @click="guides.drawing = null">{{
        guides.drawing === 'lines' ? 'Done' : 'Cancel'
      }}</v-btn>
    </div>
  </div>
</template>

<style scoped>
.guides {
  position: absolute;
  inset: 0;
}
.surface {
  fill: transparent;
  cursor: crosshair;
}
.corner {
  fill: rgba(255, 255, 255, 0.25);
  stroke: #fff;
  stroke-width: 1.5;
  cursor: move;
}
.told {
  position: absolute;
  bottom: 16px;
  left: 50%;
  transform: translateX(-50%);
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 4px 12px;
  border-radius: 4px;
  background: rgba(0, 0, 0, 0.72);
  color: #fff;
  white-space: nowrap;
}
</style>
