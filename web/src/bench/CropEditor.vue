<script setup lang="ts">
import { computed, onScopeDispose, ref, watch } from 'vue'

import type { Schemas } from '../api/client'
import { inside, shaped, useCropRatio, type Crop, type Frame } from '../steps/frame'
import { arrowKeys, useKeys } from '../parts/useKeys'
import { useRoom } from '../parts/useRoom'
import { useGuides } from '../steps/guides'
import GuideLayer from './GuideLayer.vue'
import { useBentSource } from './useBentSource'

const props = defineProps<{
  step: Frame
  take: Schemas['TakeOut']
  picture: Schemas['PictureOut']
}>()
const emit = defineEmits<{ change: [step: Frame, now: boolean] }>()

const ratioStore = useCropRatio()
const area = ref<HTMLElement>()
const room = useRoom(area)
const margin = 28
const guides = useGuides()
onScopeDispose(() => (guides.drawing = null))
const shownSource = useBentSource(props, () => guides.drawing !== null)
const warp = computed(() => props.take.plan?.to_source.find((part) => part.warp)?.warp ?? null)

const facts = computed(() => props.picture.facts)
const sideways = computed(() => props.step.turns % 2 === 1)
const canvas = computed(() =>
  sideways.value
    ? { width: facts.value.height, height: facts.value.width }
    : { width: facts.value.width, height: facts.value.height },
)
const scale = computed(() =>
  Math.max(
    0.01,
    Math.min(
      (room.value.width - 2 * margin) / canvas.value.width,
      (room.value.height - 2 * margin) / canvas.value.height,
    ),
  ),
)
const box = computed(() => ({
  width: canvas.value.width * scale.value,
  height: canvas.value.height * scale.value,
  left: (room.value.width - canvas.value.width * scale.value) / 2,
  top: (room.value.height - canvas.value.height * scale.value) / 2,
}))
/** The source under the crop: turned, then flipped, then straightened, as the step does it. */
const pose = computed(() => ({
  width: `${facts.value.width * scale.value}px`,
  height: `${facts.value.height * scale.value}px`,
  transform: [
    'translate(-50%, -50%)',
    `rotate(${guides.drawing ? 0 : props.step.angle}deg)`,
    `scaleX(${props.step.flip ? -1 : 1})`,
    `rotate(${props.step.turns * 90}deg)`,
  ].join(' '),
}))

const draft = ref<Crop>({ x: 0, y: 0, width: 1, height: 1 })
const drawing = ref(false)
watch(
  () => props.take.plan?.crop,
  (now) => {
    if (!drawing.value)
      draft.value = now ? { x: now.x, y: now.y, width: now.width, height: now.height } : { x: 0, y: 0, ...canvas.value }
  },
  { immediate: true },
)

type Grip = 'move' | 'draw' | 'n' | 's' | 'e' | 'w' | 'ne' | 'nw' | 'se' | 'sw'
const grips = ['nw', 'n', 'ne', 'e', 'se', 's', 'sw', 'w'] as const

function start(event: PointerEvent, grip: Grip) {
  const surface = event.currentTarget as SVGElement
  surface.setPointerCapture(event.pointerId)
  drawing.value = true
  const from = place(event)
  const before = { ...draft.value }
  const move = (now: PointerEvent) => {
    draft.value = dragged(before, from, place(now), grip)
  }
  const end = () => {
    surface.removeEventListener('pointermove', move)
    drawing.value = false
    if (JSON.stringify(before) !== JSON.stringify(draft.value))
      emit('change', { ...props.step, crop: draft.value }, true)
  }
  surface.addEventListener('pointermove', move)
  surface.addEventListener('pointerup', end, { once: true })
}

function place(event: PointerEvent) {
  const corner = area.value!.getBoundingClientRect()
  return {
    x: (event.clientX - corner.left - box.value.left) / scale.value,
    y: (event.clientY - corner.top - box.value.top) / scale.value,
  }
}

function dragged(before: Crop, from: { x: number; y: number }, to: { x: number; y: number }, grip: Grip): Crop {
  const { width, height } = canvas.value
  if (grip === 'move') {
    return inside(
      { ...before, x: Math.round(before.x + to.x - from.x), y: Math.round(before.y + to.y - from.y) },
      canvas.value,
    )
  }
  const clamp = (value: number, most: number) => Math.max(0, Math.min(most, value))
  let [left, top, right, bottom] = [before.x, before.y, before.x + before.width, before.y + before.height]
  if (grip === 'draw') [left, top, right, bottom] = [from.x, from.y, to.x, to.y]
  else {
    if (grip.includes('w')) left = to.x
    if (grip.includes('e')) right = to.x
    if (grip.includes('n')) top = to.y
    if (grip.includes('s')) bottom = to.y
  }
  const x = Math.round(clamp(Math.min(left, right), width - 1))
  const y = Math.round(clamp(Math.min(top, bottom), height - 1))
  const crop = {
    x,
    y,
    width: Math.max(1, Math.round(clamp(Math.max(left, right), width)) - x),
    height: Math.max(1, Math.round(clamp(Math.max(top, bottom), height)) - y),
  }
  return ratioStore.ratio ? held(crop, grip, ratioStore.ratio) : crop
}

/** The crop in its shape, the side or corner opposite the grip staying where it is. */
function held(crop: Crop, grip: Grip, ratio: number): Crop {
  const { width, height } = canvas.value
  const right = crop.x + crop.width
  const bottom = crop.y + crop.height
  let wide = grip === 'n' || grip === 's' ? crop.height * ratio : crop.width
  wide = Math.min(wide, grip.includes('w') ? right : width - crop.x)
  let high = wide / ratio
  const most = grip.includes('n') ? bottom : height - crop.y
  if (high > most) {
    high = most
    wide = high * ratio
  }
  const shape = { width: Math.max(1, Math.round(wide)), height: Math.max(1, Math.round(high)) }
  return {
    x: grip.includes('w') ? right - shape.width : crop.x,
    y: grip.includes('n') ? bottom - shape.height : crop.y,
    ...shape,
  }
}

/** Move by whole source pixels. */
function nudge(x: number, y: number) {
  draft.value = inside({ ...draft.value, x: draft.value.x + x, y: draft.value.y + y }, canvas.value)
  emit('change', { ...props.step, crop: { ...draft.value } }, false)
}

watch(
  () => ratioStore.ratio,
  (ratio) => {
    if (ratio) draft.value = shaped(draft.value, canvas.value, ratio)
  },
)
useKeys(() => arrowKeys(nudge))

const shown = computed(() => ({
  x: box.value.left + draft.value.x * scale.value,
  y: box.value.top + draft.value.y * scale.value,
  width: draft.value.width * scale.value,
  height: draft.value.height * scale.value,
}))
const gripPlace = (grip: (typeof grips)[number]) => ({
  x: shown.value.x + (grip.includes('w') ? 0 : grip.includes('e') ? shown.value.width : shown.value.width / 2),
  y: shown.value.y + (grip.includes('n') ? 0 : grip.includes('s') ? shown.value.height : shown.value.height / 2),
})
</script>

<template>
  <div ref="area" class="area" aria-label="Crop">
    <div
      class="canvas"
      :style="{ left: `${box.left}px`, top: `${box.top}px`, width: `${box.width}px`, height: `${box.height}px` }"
    >
      <img :src="shownSource" :style="pose" alt="" draggable="false" />
    </div>
    <GuideLayer
      v-if="guides.drawing"
      :step="step"
      :source="facts"
      :left="box.left"
      :top="box.top"
      :scale="scale"
      :warp="warp"
      @change="(step, now) => emit('change', step, now)"
    />
    <svg v-else class="over" :width="room.width" :height="room.height">
      <path
        class="veil"
        fill-rule="evenodd"
        :d="`M0 0H${room.width}V${room.height}H0zM${shown.x} ${shown.y}v${shown.height}h${shown.width}v${-shown.height}z`"
      />
      <rect
        class="outside"
        :x="0"
        :y="0"
        :width="room.width"
        :height="room.height"
        @pointerdown.prevent="start($event, 'draw')"
      />
      <rect class="crop" v-bind="shown" @pointerdown.prevent="start($event, 'move')" />
      <g class="thirds">
        <line
          v-for="part in [1, 2]"
          :key="`v${part}`"
          :x1="shown.x + (shown.width * part) / 3"
          :x2="shown.x + (shown.width * part) / 3"
          :y1="shown.y"
          :y2="shown.y + shown.height"
        />
        <line
          v-for="part in [1, 2]"
          :key="`h${part}`"
          :y1="shown.y + (shown.height * part) / 3"
          :y2="shown.y + (shown.height * part) / 3"
          :x1="shown.x"
          :x2="shown.x + shown.width"
        />
      </g>
      <rect
        v-for="grip in grips"
        :key="grip"
        class="grip"
        :class="grip"
        :x="gripPlace(grip).x - 7"
        :y="gripPlace(grip).y - 7"
        width="14"
        height="14"
        :data-grip="grip"
        @pointerdown.prevent="start($event, grip)"
      />
    </svg>
    <span v-if="!guides.drawing" class="size small" :style="{ left: `${shown.x + 8}px`, top: `${shown.y + 8}px` }"
      >{{ draft.width }} × {{ draft.height }} px</span
    >
  </div>
</template>

<style scoped>
.area {
  position: absolute;
  inset: 0;
  overflow: hidden;
  touch-action: none;
}
.canvas {
  position: absolute;
  overflow: hidden;
}
.canvas img {
  position: absolute;
  left: 50%;
  top: 50%;
  max-width: none;
}
.over {
  position: absolute;
  inset: 0;
}
.veil {
  fill: rgb(var(--v-theme-background));
  opacity: 0.72;
}
.outside {
  fill: transparent;
  cursor: crosshair;
}
.crop {
  fill: transparent;
  stroke: #fff;
  stroke-width: 1.2;
  cursor: move;
}
.thirds line {
  stroke: rgba(255, 255, 255, 0.4);
  pointer-events: none;
}
.grip {
  fill: #fff;
  stroke: rgba(0, 0, 0, 0.6);
}
.nw,
.se {
  cursor: nwse-resize;
}
.ne,
.sw {
  cursor: nesw-resize;
}
.n,
.s {
  cursor: ns-resize;
}
.e,
.w {
  cursor: ew-resize;
}
.size {
  position: absolute;
  padding: 1px 7px;
  background: rgba(0, 0, 0, 0.65);
  color: #fff;
  border-radius: 3px;
  pointer-events: none;
}
</style>
