<script setup lang="ts">
import { computed, nextTick, onBeforeUnmount, ref, watch } from 'vue'

import EarlyView from './EarlyView.vue'
import HandLayers from './HandLayers.vue'
import Pane from '../viewer/Pane.vue'
import type { View } from '../viewer/content'
import PixelReadout from './PixelReadout.vue'
import SpotPins from './SpotPins.vue'
import { originalLayer, resultLayer, type Layer, type Plan, type Show, type Size } from '../viewer/layer'
import type { Spot } from '../board/useSpots'
import { arrowKeys, useKeys } from '../parts/useKeys'
import { useBeat } from '../parts/useBeat'
import { tilesOfView } from '../viewer/tileGrid'
import { useAhead } from '../viewer/useAhead'
import { useHandPan } from '../viewer/useHandPan'
import { useLook } from '../viewer/useLook'
import { useMarks } from '../viewer/useMarks'
import LiveView from './LiveView.vue'
import ViewDivider from './ViewDivider.vue'
import ViewLegend from './ViewLegend.vue'
import { useBench } from './useBench'
import type { Panes, Shown } from './usePanes'
import type { Take } from '../takes/useTake'
import { useProof } from '../proofs/useProof'

/** How far beside the view is computed ahead, in screen pixels, and how many other takes. */
const besidePixels = 256
const mostOthers = 4

const props = defineProps<{
  lead: Take
  plan: Plan
  /** Every take of the picture. */
  takes: Take[]
  panes: Panes
}>()
const { zoom, hands, spots, running, moving, picture, view: handle } = useBench()
/** The step whose mask is shown, among those that are on. */
const { maskOf, gradient } = hands.masks
/** Whether something is painted, drawn or laid down on the picture: pins would be in its way. */
const inHand = computed(() => Boolean(hands.painting.value || hands.drawing.value || gradient.value))
const look = useLook()
const { clipped } = useMarks()

const viewers = ref<InstanceType<typeof Pane>[]>([])
const divider = ref(0.5)
const busy = ref<Record<number, boolean>>({})
const pointer = ref<{ x: number; y: number } | null>(null)
const at = ref<View | null>(null)

const { second: swapped, set: beat } = useBeat(600)
watch(() => props.panes.blinking, beat)

const working = computed(() => shown.value.some((_, index) => busy.value[index]))
const showing = computed(() =>
  props.panes.holding || swapped.value ? 'below' : props.panes.comparing === 'divider' ? 'divider' : 'top',
)
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
  if (props.panes.as === 'proof' && maskOf.value === null) return proofed.value
  if (maskOf.value !== null) return { as: 'mask', step: maskOf.value }
  if (props.panes.as === 'difference') return { as: 'difference', gain: props.panes.gain, against: second.value }
  if (props.panes.as === 'clipping') return { as: 'clipping' }
  return { as: clipped.value ? 'stripes' : 'pixels' }
})
/** The panes from the first: the leading take stands right of the divider and of what it is beside. */
const shown = computed<{ id: Shown; layer: Layer }[]>(() => {
  const lead = { id: props.lead.id, layer: layerOf(props.lead.id, show.value) }
  const beside = (id: Shown) => ({
    id,
    layer: layerOf(
      id,
      id === 'original'
        ? undefined
        : props.panes.as === 'clipping'
          ? { as: 'clipping' }
          : props.panes.as === 'proof'
            ? proofed.value
            : undefined,
    ),
  })
  if (props.panes.comparing === 'sides') return [beside(second.value), lead]
  if (props.panes.comparing === 'four') return [lead, ...props.panes.beside.filter(usable).slice(0, 3).map(beside)]
  return [lead]
})
const leading = computed(() => shown.value.findIndex((one) => one.id === props.lead.id))
/** What lies under the leading take's pane: the original while it is held, or what the divider shows. */
const below = computed(() =>
  (props.panes.comparing === 'divider' || props.panes.blinking) && !props.panes.holding
    ? layerOf(second.value)
    : original.value,
)

function label(id: Shown): string {
  if (props.panes.holding) return 'original'
  if (swapped.value && id === props.lead.id) return nameOf(second.value)
  if (id === props.lead.id && props.panes.as === 'difference')
    return `${nameOf(id)} − ${nameOf(second.value)}, ×${props.panes.gain}`
  return nameOf(id)
}

function looks(view: View) {
  at.value = view
  zoom.value = view.scale
  const { width, height } = props.plan.size
  Object.assign(look, {
    x: Math.min(1, Math.max(0, view.x)),
    y: Math.min(1, Math.max(0, (view.y * width) / height)),
    scale: view.scale,
  })
}
function moved(view: View, from: number) {
  viewers.value.forEach((pane, index) => index !== from && pane.setView(view))
}

const area = ref<HTMLElement>()
const { ready: handReady, pulling } = useHandPan(area, (x, y) => main()?.panBy(-x, -y))
/** The view of all of the leading take. */
function whole(pane: Size): View {
  const { width, height } = props.plan.size
  return { x: 0.5, y: height / width / 2, scale: Math.min(1, pane.width / width, pane.height / height) }
}
/** What may be looked at next: this place at full size or all of it, what lies beside, other takes at this place. */
useAhead(1, () => {
  const view = at.value
  const part = area.value?.querySelector('.part')
  if (!view || !part || working.value || hands.painting.value || running.value) return []
  const density = window.devicePixelRatio || 1
  const pane = { width: part.clientWidth * density, height: part.clientHeight * density }
  const of = (layer: Layer, where: View) => tilesOfView(layer, where, props.plan.size, pane, besidePixels)
  const lead = shown.value[leading.value]!.layer
  const others = props.takes.filter((take) => take.plan && !shown.value.some(({ id }) => id === take.id))
  return [
    ...of(lead, view.scale < 1 ? { ...view, scale: 1 } : whole(pane)).seen,
    ...of(lead, view).beside,
    ...others.slice(0, mostOthers).flatMap((take) => of(layerOf(take.id), view).seen),
  ]
})

watch(
  () => shown.value.length,
  async () => {
    const view = at.value
    await nextTick()
    // The panes that have come look where the leading one does.
    if (view) for (const pane of viewers.value) pane.setView(view)
  },
)

const main = () => viewers.value[leading.value]
handle.value = {
  fit: () => main()?.fit(),
  zoomTo: (to) => main()?.zoomTo(to),
  stepZoom: (way) => main()?.stepZoom(way),
  lookAt: (place, scale) => main()?.lookAt(place, scale),
}
const mine = handle.value
onBeforeUnmount(() => {
  if (handle.value === mine) handle.value = null
})

function pin(place: { x: number; y: number }) {
  spots.pin.mutate({ ...place, take_id: props.lead.id })
}
/** Under the pointer, or in the middle of the view. */
function pinHere() {
  const { width } = props.plan.size
  const place = pointer.value ?? (at.value && { x: at.value.x * width, y: at.value.y * width })
  if (place) pin(place)
}
function moveSpot(spot: Spot, place: { x: number; y: number }) {
  spots.alter.mutate({ id: spot.id, ...place, take_id: props.lead.id })
}

useKeys(() => [
  { key: 'k', shown: 'K', does: 'pin a check spot under the pointer', group: 'takes and check spots', run: pinHere },
  ...arrowKeys((x, y) => main()?.panBy(40 * x, 40 * y)),
])
</script>

<template>
  <div
    ref="area"
    class="area"
    :class="{ quarters: shown.length > 2, hand: handReady, pulling }"
    :data-busy="working"
    :data-shown="plan.chain"
    :data-showing="panes.holding ? 'original' : showing"
  >
    <div v-for="(one, index) in shown" :key="index" class="part" :aria-label="`Pane ${index + 1}`">
      <Pane
        ref="viewers"
        :top="one.layer"
        :below="index === leading ? below : original"
        :reference="plan.size"
        :showing="showing"
        :divider="divider"
        :navigator="index === 0"
        @view="moved($event, index)"
        @at="index === leading && looks($event)"
        @computing="busy[index] = $event"
        @pointer="pointer = $event"
        @pin="pin($event)"
      />
      <EarlyView
        v-if="picture?.facts.raw && index === leading && shown.length === 1"
        :key="picture.id"
        :picture="picture"
        :take="lead"
        :working="working"
      />
      <LiveView
        v-if="at && index === leading && (show.as === 'pixels' || show.as === 'stripes') && showing === 'top'"
        :take="lead"
        :plan="plan"
        :view="at"
        :moving="moving"
        :stripes="show.as === 'stripes'"
        :behind="working"
      />
      <HandLayers
        v-if="at && index === leading"
        :plan="plan"
        :view="at"
        :take-id="lead.id"
        @zoom="(way, about) => main()?.stepZoom(way, about)"
      />
      <SpotPins
        v-if="at && !(index === leading && inHand)"
        :spots="spots.spots.value"
        :take-id="lead.id"
        :reference="plan.size"
        :view="at"
        :still="index !== leading"
        @move="moveSpot"
        @remove="spots.remove.mutate($event)"
      />
      <span class="tag left">{{
        panes.comparing === 'divider' && !panes.holding ? nameOf(second) : label(one.id)
      }}</span>
      <span v-if="shown.length > 1 && busy[index]" class="tag computing small" role="status">computing</span>
    </div>
    <ViewDivider v-if="panes.comparing === 'divider' && !panes.holding" v-model="divider" />
    <span v-if="panes.comparing === 'divider' && !panes.holding" class="tag right">{{ label(lead.id) }}</span>
    <ViewLegend :panes="panes" :masked="maskOf !== null" :working="working" :exact="exact" />
    <PixelReadout
      :lead="lead"
      :plan="plan"
      :others="
        shown
          .filter((one) => one.id !== lead.id && one.id !== 'original')
          .map((one) => takes.find((take) => take.id === one.id)!)
      "
      :place="pointer"
      :exact="exact"
    />
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
.hand,
.hand :deep(*) {
  cursor: grab !important;
}
.pulling,
.pulling :deep(*) {
  cursor: grabbing !important;
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
.tag {
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
.tag.computing {
  top: auto;
  left: 10px;
  bottom: 10px;
}
/* Beside the small picture of the whole. */
.tag.right {
  right: 172px;
}
</style>
