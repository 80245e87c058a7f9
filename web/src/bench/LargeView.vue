<script setup lang="ts">
import { computed, nextTick, onBeforeUnmount, ref, watch } from 'vue'

import type { Spot } from '../board/useSpots'
import PaintLayer from '../masks/PaintLayer.vue'
import type { Stroke } from '../masks/useBrush'
import type { Drawn } from '../steps/useDrawing'
import DrawLayer from './DrawLayer.vue'
import Pane, { type View } from './Pane.vue'
import PixelReadout from './PixelReadout.vue'
import SpotPins from './SpotPins.vue'
import { originalLayer, resultLayer, type Layer, type Plan, type Show } from './layer'
import { useLook } from './useLook'
import type { Panes, Shown } from './usePanes'
import type { Take } from './useTake'
import { useProof } from '../proofs/useProof'

const props = defineProps<{
  lead: Take
  plan: Plan
  /** Every take of the picture. */
  takes: Take[]
  panes: Panes
  /** The step whose mask is shown, among those that are on. */
  maskOf: number | null
  /** Whether the brush is in hand. */
  painting: boolean
  /** What is drawn on the picture for a step, if anything is. */
  drawing: Drawn['what'] | null
  spots: Spot[]
}>()
const zoom = defineModel<number>('zoom', { required: true })
const emit = defineEmits<{
  pin: [place: { x: number; y: number }]
  moveSpot: [spot: Spot, place: { x: number; y: number }]
  removeSpot: [spot: Spot]
  stroke: [stroke: Stroke]
  drawn: [drawn: Drawn]
}>()
const look = useLook()

const viewers = ref<InstanceType<typeof Pane>[]>([])
const area = ref<HTMLElement>()
const divider = ref(0.5)
const busy = ref<Record<number, boolean>>({})
const pointer = ref<{ x: number; y: number } | null>(null)
const at = ref<View | null>(null)

const swapped = ref(false)
let beat: ReturnType<typeof setInterval> | undefined
watch(
  () => props.panes.blinking,
  (on) => {
    clearInterval(beat)
    swapped.value = false
    if (on) beat = setInterval(() => (swapped.value = !swapped.value), 600)
  },
)
onBeforeUnmount(() => clearInterval(beat))

const working = computed(() => shown.value.some((_, index) => busy.value[index]))
const showing = computed(() => (props.panes.holding || swapped.value ? 'below' : props.panes.comparing === 'divider' ? 'divider' : 'top'))
const exact = computed(() => zoom.value >= 0.999)

const usable = (id: Shown) => id === 'original' || props.takes.some((take) => take.id === id && take.plan)
const second = computed<Shown>(() => props.panes.beside.find(usable) ?? 'original')

function nameOf(id: Shown): string {
  return id === 'original' ? 'original' : (props.takes.find((take) => take.id === id)?.name ?? '')
}
const original = computed(() => originalLayer(props.lead.id, props.plan, props.plan))
function layerOf(id: Shown, show: Show = { as: 'pixels' }): Layer {
  if (id === 'original') return original.value
  if (id === props.lead.id) return resultLayer(id, props.plan, props.plan, show)
  return resultLayer(id, props.takes.find((take) => take.id === id)!.plan!, props.plan, show)
}

const proof = useProof()
const proofed = computed<Show>(() => ({ as: 'proof', proof: { ...proof } }))
const show = computed<Show>(() => {
  if (props.panes.as === 'proof' && props.maskOf === null) return proofed.value
  if (props.maskOf !== null) return { as: 'mask', step: props.maskOf }
  if (props.panes.as === 'difference') return { as: 'difference', gain: props.panes.gain, against: second.value }
  return { as: props.panes.as === 'clipping' ? 'clipping' : 'pixels' }
})
/** The panes from the first: the leading take stands right of the divider and of what it is beside. */
const shown = computed<{ id: Shown; layer: Layer }[]>(() => {
  const lead = { id: props.lead.id, layer: layerOf(props.lead.id, show.value) }
  const beside = (id: Shown) => ({ id, layer: layerOf(id, id === 'original' ? undefined : props.panes.as === 'clipping' ? { as: 'clipping' } : props.panes.as === 'proof' ? proofed.value : undefined) })
  if (props.panes.comparing === 'sides') return [beside(second.value), lead]
  if (props.panes.comparing === 'four') return [lead, ...props.panes.beside.filter(usable).slice(0, 3).map(beside)]
  return [lead]
})
const leading = computed(() => shown.value.findIndex((one) => one.id === props.lead.id))
/** What lies under the leading take's pane: the original while it is held, or what the divider shows. */
const below = computed(() => ((props.panes.comparing === 'divider' || props.panes.blinking) && !props.panes.holding ? layerOf(second.value) : original.value))

function label(id: Shown): string {
  if (props.panes.holding) return 'original'
  if (swapped.value && id === props.lead.id) return nameOf(second.value)
  if (id === props.lead.id && props.panes.as === 'difference') return `${nameOf(id)} − ${nameOf(second.value)}, ×${props.panes.gain}`
  return nameOf(id)
}

function looks(view: View) {
  at.value = view
  zoom.value = view.scale
  const { width, height } = props.plan.size
  Object.assign(look, { x: Math.min(1, Math.max(0, view.x)), y: Math.min(1, Math.max(0, (view.y * width) / height)), scale: view.scale })
}
function moved(view: View, from: number) {
  viewers.value.forEach((pane, index) => index !== from && pane.setView(view))
}

watch(
  () => shown.value.length,
  async () => {
    const view = at.value
    await nextTick()
    // The panes that have come look where the leading one does.
    if (view) for (const pane of viewers.value) pane.setView(view)
  },
)

function drag(event: PointerEvent) {
  const grip = event.currentTarget as HTMLElement
  grip.setPointerCapture(event.pointerId)
  const move = (now: PointerEvent) => {
    const box = area.value!.getBoundingClientRect()
    divider.value = Math.min(1, Math.max(0, (now.clientX - box.left) / box.width))
  }
  grip.addEventListener('pointermove', move)
  grip.addEventListener('pointerup', () => grip.removeEventListener('pointermove', move), { once: true })
}

const main = () => viewers.value[leading.value]
defineExpose({
  fit: () => main()?.fit(),
  zoomTo: (to: number) => main()?.zoomTo(to),
  stepZoom: (way: 1 | -1) => main()?.stepZoom(way),
  panBy: (x: number, y: number) => main()?.panBy(x, y),
  lookAt: (place: { x: number; y: number }, scale: number) => main()?.lookAt(place, scale),
  /** Pin a spot under the pointer, or in the middle of the view. */
  pin: () => {
    const place = pointer.value ?? (at.value && { x: at.value.x * props.plan.size.width, y: at.value.y * props.plan.size.width })
    if (place) emit('pin', place)
  },
})
</script>

<template>
  <div ref="area" class="area" :class="{ quarters: shown.length > 2 }" :data-busy="working" :data-showing="panes.holding ? 'original' : showing">
    <div v-for="(one, index) in shown" :key="index" class="part" :aria-label="`Pane ${index + 1}`">
      <Pane ref="viewers" :top="one.layer" :below="index === leading ? below : original" :reference="plan.size" :showing="showing" :divider="divider"
        :navigator="index === 0" @view="moved($event, index)" @at="index === leading && looks($event)"
        @computing="busy[index] = $event" @pointer="pointer = $event" @pin="emit('pin', $event)" />
      <PaintLayer v-if="at && painting && index === leading" :plan="plan" :view="at" @stroke="emit('stroke', $event)" @zoom="main()?.stepZoom($event)" />
      <DrawLayer v-else-if="at && drawing && index === leading" :plan="plan" :view="at" :what="drawing" @drawn="emit('drawn', $event)" @zoom="main()?.stepZoom($event)" />
      <SpotPins v-else-if="at" :spots="spots" :take-id="lead.id" :reference="plan.size" :view="at" :still="index !== leading"
        @move="(spot, place) => emit('moveSpot', spot, place)" @remove="emit('removeSpot', $event)" />
      <span class="tag left">{{ panes.comparing === 'divider' && !panes.holding ? nameOf(second) : label(one.id) }}</span>
    </div>
    <div v-if="panes.comparing === 'divider' && !panes.holding" class="divider" :style="{ left: `${divider * 100}%` }" role="slider"
      aria-label="Divider" tabindex="0" :aria-valuenow="Math.round(divider * 100)" @pointerdown.prevent="drag"
      @keydown.left.prevent="divider = Math.max(0, divider - 0.02)" @keydown.right.prevent="divider = Math.min(1, divider + 0.02)">
      <span class="grip" />
    </div>
    <span v-if="panes.comparing === 'divider' && !panes.holding" class="tag right">{{ label(lead.id) }}</span>
    <div class="corner small">
      <span v-if="panes.as === 'difference'" class="scale" aria-label="Scale of the difference">
        darker −{{ Math.round(127 / panes.gain) }} <i class="ramp" /> +{{ Math.round(127 / panes.gain) }} lighter, of 255
      </span>
      <span v-if="maskOf !== null" class="scale"><i class="dot mask" /> where the step works</span>
      <span v-else-if="panes.as === 'clipping'" class="scale"><i class="dot high" /> clipped light <i class="dot low" /> clipped dark</span>
      <span v-if="panes.as === 'proof' && maskOf === null" class="scale">soft proof<template v-if="proof.warn"> <i class="dot outside" /> cannot be printed</template></span>
      <span class="state" role="status">
        <i v-if="working" class="turning" />
        {{ working ? 'computing' : exact ? 'exact' : 'approximate, zoomed out' }}
      </span>
    </div>
    <PixelReadout :lead="lead" :plan="plan" :others="shown.filter((one) => one.id !== lead.id && one.id !== 'original').map((one) => takes.find((take) => take.id === one.id)!)"
      :place="pointer" :exact="exact" />
  </div>
</template>

<style scoped>
.area {
  position: absolute;
  inset: 0;
  display: grid;
  grid-auto-flow: column;
  grid-auto-columns: minmax(0, 1fr);
  gap: 2px;
  overflow: hidden;
}
.quarters {
  grid-auto-flow: row;
  grid-template: repeat(2, minmax(0, 1fr)) / repeat(2, minmax(0, 1fr));
}
/* A small picture of the whole is of use to one pane; beside others it takes too much of them. */
.area:has(.part + .part) :deep(.navigator) {
  display: none !important;
}
.part {
  position: relative;
  overflow: hidden;
}
.tag,
.corner > span {
  padding: 2px 8px;
  font-size: 13px;
  background: rgba(var(--v-theme-surface), 0.86);
  border-radius: 3px;
}
.tag {
  position: absolute;
  top: 10px;
  pointer-events: none;
}
.tag.left {
  left: 10px;
}
.tag.right {
  right: 10px;
}
.corner {
  position: absolute;
  right: 10px;
  bottom: 10px;
  display: flex;
  gap: 6px;
  pointer-events: none;
}
.state,
.scale {
  display: flex;
  gap: 6px;
  align-items: center;
}
/* In steps: it turns for as long as the processor has better things to do than to draw it. */
.turning {
  width: 14px;
  height: 14px;
  border: 2px solid currentColor;
  border-left-color: transparent;
  border-radius: 50%;
  animation: turning 1s steps(8) infinite;
}
@keyframes turning {
  to {
    transform: rotate(1turn);
  }
}
.ramp {
  width: 64px;
  height: 10px;
  background: linear-gradient(90deg, #000, #808080, #fff);
}
.dot {
  width: 10px;
  height: 10px;
}
.dot.outside {
  background: #808080;
}
.mask {
  background: #f240bf;
}
.high {
  background: #ff261a;
}
.low {
  background: #1a73ff;
}
.divider {
  position: absolute;
  top: 0;
  bottom: 0;
  width: 15px;
  margin-left: -7px;
  cursor: col-resize;
  touch-action: none;
}
.divider::before {
  content: '';
  position: absolute;
  left: 7px;
  top: 0;
  bottom: 0;
  width: 1px;
  background: #fff;
  box-shadow: 0 0 0 1px rgba(0, 0, 0, 0.5);
}
.grip {
  position: absolute;
  top: 50%;
  left: 1px;
  width: 13px;
  height: 13px;
  transform: rotate(45deg);
  background: #fff;
  border: 1px solid rgba(0, 0, 0, 0.6);
}
</style>
