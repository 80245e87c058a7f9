<script setup lang="ts">
import { mdiPackageDown } from '@mdi/js'
import { computed, nextTick, ref, watch } from 'vue'
import { useRouter } from 'vue-router'

import ApplyCard from '../cards/ApplyCard.vue'
import SaveCard from '../cards/SaveCard.vue'
import DeliverDialog from '../deliveries/DeliverDialog.vue'
import { unfinished, useDeliveries } from '../deliveries/useDeliveries'
import { useJob } from '../jobs/useJobs'
import { resized, useBrush } from '../masks/useBrush'
import { usePicture, usePictures } from '../pictures/usePictures'
import { useSurround } from '../shell/useSurround'
import { turned, type Frame } from '../steps/frame'
import type { StepKind } from '../steps/registry'
import CheckBoard, { type BoardSize } from '../board/CheckBoard.vue'
import { useSpots, type Spot } from '../board/useSpots'
import ProofCard from '../proofs/ProofCard.vue'
import OnPage from '../prints/OnPage.vue'
import ScreenRuler from '../prints/ScreenRuler.vue'
import { printPpi } from '../prints/ppi'
import PrintPlanner from '../prints/PrintPlanner.vue'
import { useTakes } from '../takes/useTakes'
import CropEditor from './CropEditor.vue'
import FidelityCard from './FidelityCard.vue'
import HistogramCard from './HistogramCard.vue'
import KeySheet from './KeySheet.vue'
import LargeView from './LargeView.vue'
import SizeStrip from './SizeStrip.vue'
import TakeBar from './TakeBar.vue'
import TheLine from './TheLine.vue'
import ViewBar from './ViewBar.vue'
import { useHandwork } from './useHandwork'
import { useKeys, type Key } from './useKeys'
import { useNewTakes } from './useNewTakes'
import { usePanes } from './usePanes'
import { useTake, type Step } from './useTake'

const props = defineProps<{ jobId: string; pictureId: string; takeId?: string }>()
const router = useRouter()
const { next: nextSurround } = useSurround()

const { data: job } = useJob(() => props.jobId)
const { data: picture, error: missing } = usePicture(() => props.pictureId)
const { data: pictures } = usePictures(() => props.jobId)
const { data: deliveries } = useDeliveries(() => props.jobId)
const { take, error: noTake, edit, settle, unsaved, undo, redo } = useTake(() => props.takeId)

const list = useTakes(() => props.pictureId)
const board = useSpots(() => props.pictureId)

const openStep = ref<number | null>(null)
const readingOpen = ref(false)
const { brush } = useBrush()
const histogram = ref(false)
const measuring = ref(false)
const paging = ref(false)
const ppi = computed(() => (take.value ? printPpi(take.value, job.value?.order ?? null) : 300))
const fidelity = ref(false)
const boardSize = ref<BoardSize>((localStorage.getItem('board') as BoardSize | null) ?? 'folded')
watch(boardSize, (now) => localStorage.setItem('board', now))
const zoom = ref(1)
const delivering = ref(false)
const sheet = ref(false)
const printing = ref(false)
const saving = ref(false)
const applying = ref(false)
const line = ref<InstanceType<typeof TheLine>>()
const large = ref<InstanceType<typeof LargeView>>()
const bar = ref<InstanceType<typeof ViewBar>>()
const cropper = ref<InstanceType<typeof CropEditor>>()

const takes = computed(() => list.takes.value)
/** The takes as the bench shows them: the one being changed as it is now, not as it was last saved. */
const shownTakes = computed(() => takes.value.map((one) => (one.id === take.value?.id ? take.value : one)))
const panes = usePanes(takes, () => props.takeId)
const framing = computed(() => {
  const step = openStep.value === null ? undefined : take.value?.steps[openStep.value]
  return step?.kind === 'frame' ? step : null
})
const running = computed(() => deliveries.value?.filter(unfinished).length ?? 0)

function show(id: string, replace = false) {
  const to = { name: 'bench', params: { jobId: props.jobId, pictureId: props.pictureId, takeId: id } }
  void (replace ? router.replace(to) : router.push(to))
}

const { begin, suggest } = useNewTakes(() => props.pictureId, settle, list.refresh, show)
function duplicate() {
  if (take.value && !take.value.outside) begin.mutate(take.value.steps)
}
async function applied(takeOf: Record<string, string>) {
  await list.refresh()
  const made = takeOf[props.pictureId]
  if (made) show(made)
}

// Without a take in the address, the picture's first one is shown.
watch(
  [picture, () => props.takeId],
  () => {
    if (!picture.value || props.takeId) return
    const first = picture.value.takes[0]
    if (first) show(first.id, true)
    else begin.mutate([])
  },
  { immediate: true },
)

function change(steps: Step[], now = false) {
  edit(steps, { now })
}
function changeFrame(step: Frame, now = false) {
  if (take.value && openStep.value !== null) change(take.value.steps.toSpliced(openStep.value, 1, step), now)
}
function turn(quarters: 1 | 3) {
  const place = take.value?.steps.findIndex((step) => step.kind === 'frame') ?? -1
  const plan = take.value?.plan
  if (!take.value || !plan || place < 0) return
  change(take.value.steps.toSpliced(place, 1, turned(take.value.steps[place] as Frame, quarters, plan.canvas, plan.crop)), true)
}
const hands = useHandwork(take, openStep, (steps) => change(steps, true), settle)

function nextTake() {
  const place = takes.value.findIndex((one) => one.id === props.takeId)
  const next = takes.value[(place + 1) % takes.value.length]
  if (next) show(next.id)
}
// A take that is gone is not shown any more.
watch(takes, (now) => {
  if (now.length && props.takeId && !now.some((one) => one.id === props.takeId)) show(now[0]!.id, true)
})

async function look(takeId: string, spot: Spot, scale: number) {
  if (boardSize.value === 'full') boardSize.value = 'open'
  openStep.value = null
  if (takeId !== props.takeId) show(takeId)
  // The large view comes back, and takes the take up, first.
  await nextTick()
  await settled()
  const place = spot.places[takeId]
  if (place) large.value?.lookAt(place, scale)
}
/** The take in the address is the one that is shown. */
async function settled() {
  while (take.value?.id !== props.takeId) await new Promise((resolve) => setTimeout(resolve, 20))
  await nextTick()
}
function pin(place: { x: number; y: number }) {
  if (take.value) board.pin.mutate({ ...place, take_id: take.value.id })
}
function nextBoard() {
  boardSize.value = boardSize.value === 'folded' ? 'open' : boardSize.value === 'open' ? 'full' : 'folded'
}
/** What the print planner leaves free around the picture, mm; the delivery starts from it. */
const border = ref(0)
function planned(steps: Parameters<typeof change>[0], around: number) {
  border.value = around
  change(steps, true)
}
function pickStep(way: 1 | -1) {
  const count = take.value?.steps.length ?? 0
  if (!count) return
  openStep.value = openStep.value === null ? (way > 0 ? 0 : count - 1) : (openStep.value + way + count) % count
}
function openKind(kind: StepKind) {
  const place = take.value?.steps.findIndex((step) => step.kind === kind) ?? -1
  // What is not on the line yet is put there.
  if (place < 0) line.value?.add(kind)
  else openStep.value = openStep.value === place ? null : place
}
function arrow(x: number, y: number, far: number) {
  if (cropper.value) cropper.value.nudge(x * far, y * far)
  else if (large.value) large.value.panBy(x * far * 40, y * far * 40)
}

const scales = [0.5, 1, 2, 4, 8]
const keys = computed<Key[]>(() => [
  { key: 'o', shown: 'O, held', does: 'see the original', run: () => panes.hold(true), release: () => panes.hold(false) },
  { key: 'c', shown: 'C', does: 'one, divider, two, four', run: panes.compareNext },
  { key: 'a', shown: 'A', does: 'blink with what stands beside', run: panes.blink },
  ...[1, 2, 3, 4].map((place) => ({ key: `alt+${place}`, shown: 'Alt 1 … 4', does: 'another take in that pane', run: () => (place === 1 ? nextTake() : panes.swap(place - 2)) })),
  { key: 'w', shown: 'W', does: 'another take beside', run: () => panes.swap(0) },
  { key: 'x', shown: 'X', does: 'difference', run: () => panes.showAs('difference') },
  { key: 'm', shown: 'M', does: 'mark what is clipped', run: () => panes.showAs('clipping') },
  { key: 'shift+j', shown: 'Shift J', does: 'soft proof', run: () => panes.showAs('proof') },
  { key: 'h', shown: 'H', does: 'histogram', run: () => (histogram.value = !histogram.value) },
  { key: 'y', shown: 'Y', does: 'fidelity report', run: () => (fidelity.value = !fidelity.value) },
  { key: 'k', shown: 'K', does: 'pin a check spot under the pointer', run: () => large.value?.pin() },
  { key: 'v', shown: 'V', does: 'check board: open, whole view, folded', run: nextBoard },
  { key: '0', shown: '0', does: 'fit the picture', run: () => large.value?.fit() },
  ...scales.map((scale, index) => ({ key: String(index + 1), shown: String(index + 1), does: `${scale * 100} %`, run: () => large.value?.zoomTo(scale) })),
  { key: '6', shown: '6', does: 'true size of the print', run: () => bar.value?.trueSize() },
  { key: '7', shown: '7', does: 'the print from its distance', run: () => bar.value?.fromFar() },
  { key: '8', shown: '8', does: 'the print on a page or slide', run: () => (paging.value = true) },
  { key: '+', shown: '+', does: 'zoom in', run: () => large.value?.stepZoom(1) },
  { key: '-', shown: '−', does: 'zoom out', run: () => large.value?.stepZoom(-1) },
  ...(['left', 'right', 'up', 'down'] as const).flatMap((way) => {
    const [x, y] = { left: [-1, 0], right: [1, 0], up: [0, -1], down: [0, 1] }[way] as [number, number]
    return [
      { key: `arrow${way}`, shown: '← → ↑ ↓', does: 'move the picture, or the crop', run: () => arrow(x, y, 1) },
      { key: `shift+arrow${way}`, shown: 'Shift ← …', does: 'the same, ten times as far', run: () => arrow(x, y, 10) },
    ]
  }),
  { key: '[', shown: '[', does: 'open the step before', run: () => pickStep(-1) },
  { key: ']', shown: ']', does: 'open the step after', run: () => pickStep(1) },
  { key: 'l', shown: 'L', does: 'what was measured in the source', run: () => (readingOpen.value = !readingOpen.value) },
  { key: 'f', shown: 'F', does: 'frame', run: () => openKind('frame') },
  { key: 'i', shown: 'I', does: 'denoise', run: () => openKind('denoise') },
  { key: 'p', shown: 'P', does: 'repair', run: () => openKind('repair') },
  { key: 'b', shown: 'B', does: 'deblur', run: () => openKind('deblur') },
  { key: 'e', shown: 'E', does: 'enlarge', run: () => openKind('enlarge') },
  { key: 's', shown: 'S', does: 'sharpen', run: () => openKind('sharpen') },
  { key: 'u', shown: 'U', does: 'grain', run: () => openKind('grain') },
  { key: 'z', shown: 'Z', does: 'give back', run: () => openKind('give-back') },
  { key: 'q', shown: 'Q', does: 'paint where the open step works', run: hands.pickBrush },
  { key: ',', shown: ', ;', does: 'smaller or larger brush', run: () => (brush.size = resized(brush.size, -1)) },
  { key: ';', shown: ', ;', does: 'smaller or larger brush', run: () => (brush.size = resized(brush.size, 1)) },
  { key: 'r', shown: 'R', does: 'turn right', run: () => turn(1) },
  { key: 'shift+r', shown: 'Shift R', does: 'turn left', run: () => turn(3) },
  { key: '.', shown: '.', does: 'switch the open step off or on', run: () => openStep.value !== null && line.value?.toggle(openStep.value) },
  { key: 'alt+arrowup', shown: 'Alt ↑', does: 'move the open step earlier', run: () => openStep.value !== null && line.value?.move(openStep.value, openStep.value - 1) },
  { key: 'alt+arrowdown', shown: 'Alt ↓', does: 'move the open step later', run: () => openStep.value !== null && line.value?.move(openStep.value, openStep.value + 1) },
  { key: 'delete', shown: 'Del', does: 'remove the open step', run: () => openStep.value !== null && line.value?.remove(openStep.value) },
  { key: 'escape', shown: 'Esc', does: 'stop drawing; close the step', run: () => (hands.drawing.value ? (hands.drawing.value = null) : (openStep.value = null)) },
  { key: 'ctrl+z', shown: 'Ctrl Z', does: 'undo', run: undo },
  { key: 'ctrl+shift+z', shown: 'Ctrl Shift Z', does: 'redo', run: redo },
  { key: 't', shown: 'T', does: 'next take', run: nextTake },
  { key: 'n', shown: 'N', does: 'new take like this one', run: duplicate },
  { key: 'd', shown: 'D', does: 'deliver', run: () => (delivering.value = Boolean(take.value?.plan && !take.value.outside)) },
  { key: 'j', shown: 'J', does: 'print planner', run: () => (printing.value = Boolean(take.value?.plan && !take.value.outside)) },
  { key: 'g', shown: 'G', does: 'next surround grey', run: nextSurround },
  { key: '?', shown: '?', does: 'this sheet', run: () => (sheet.value = true) },
])
useKeys(() => keys.value)
</script>

<template>
  <div class="bench">
    <header class="strip-bar">
      <RouterLink :to="{ name: 'job', params: { jobId } }" class="where" :title="`Back to ${job?.title ?? 'the job'}`">
        <img src="/mark.svg" alt="" width="22" height="22" />
        <span class="names">
          <span class="small quiet">{{ job?.title }}</span>
          <strong>{{ picture?.name }}</strong>
        </span>
      </RouterLink>
      <SizeStrip v-if="picture && take" class="strip" :job="job" :picture="picture" :take="take" @print="printing = !take.outside" />
      <v-btn class="deliver" color="primary" variant="flat" :prepend-icon="mdiPackageDown" title="Deliver (D)" :disabled="!take?.plan || Boolean(take.outside)" @click="delivering = true">
        Deliver<template v-if="running">&nbsp;({{ running }} running)</template>
      </v-btn>
    </header>
    <p v-if="missing || noTake" class="pa-6" role="alert">{{ (missing ?? noTake)?.message }} <RouterLink to="/">All jobs</RouterLink></p>
    <main class="table">
      <aside class="left">
        <TakeBar :take="take" :takes="takes" :unsaved="unsaved" @show="show" @duplicate="duplicate" @save="saving = true" @apply="applying = true" @undo="undo" @redo="redo" />
        <TheLine v-if="take && picture" ref="line" v-model:open="openStep" v-model:reading="readingOpen" :take="take" :picture="picture" :job="job"
          :starting="suggest.isPending.value" @edit="change" @start="suggest.mutate()" />
      </aside>
      <section class="view" aria-label="Picture">
        <CropEditor v-if="framing && take && picture" ref="cropper" :step="framing" :take="take" :picture="picture" @change="changeFrame" />
        <LargeView v-else-if="take?.plan" ref="large" v-model:zoom="zoom" :lead="take" :plan="take.plan" :takes="shownTakes" :panes="panes"
          :mask-of="hands.maskOf.value" :painting="hands.mask.value !== null" :drawing="hands.drawing.value?.what ?? null" :spots="board.spots.value"
          @pin="pin" @stroke="hands.addStroke" @drawn="hands.drawn"
          @move-spot="(spot, place) => board.alter.mutate({ id: spot.id, ...place, take_id: take!.id })" @remove-spot="board.remove.mutate($event)" />
        <div v-else-if="take?.problem" class="problem"><p>{{ take.problem }}</p></div>
        <ProofCard v-if="panes.as === 'proof' && take?.plan && !framing" :take-id="take.id" :chain="take.plan.chain" @close="panes.showAs('proof')" />
        <HistogramCard v-if="histogram && take?.plan && !framing" :take-id="take.id" :chain="take.plan.chain" @close="histogram = false" />
        <FidelityCard v-if="fidelity && take?.plan && !framing" :take-id="take.id" :take-name="take.name" :plan="take.plan" @close="fidelity = false" @look="large?.lookAt($event, 1)" />
      </section>
      <CheckBoard v-if="picture" v-model:size="boardSize" class="wide" :takes="list" :spots="board" :lead-id="take?.id" @show="show($event)" @look="look"
        @duplicate="begin.mutate($event.steps)" />
    </main>
    <ViewBar ref="bar" v-model:histogram="histogram" v-model:fidelity="fidelity" :panes="panes" :zoom="zoom" :scales="scales" :plan="take?.plan" :ppi="ppi"
      @fit="large?.fit()" @zoom-to="large?.zoomTo($event)" @measure="measuring = true" @page="paging = true" @surround="nextSurround" @keys="sheet = true" />
    <KeySheet v-model="sheet" :keys="keys" />
    <SaveCard v-if="take" v-model="saving" :take="take" />
    <ApplyCard v-model="applying" :pictures="pictures ?? []" :only="pictureId" @applied="applied" />
    <PrintPlanner v-if="take" v-model="printing" :take="take" :order="job?.order ?? null" @plan="planned" />
    <ScreenRuler v-model="measuring" />
    <OnPage v-if="take?.plan" v-model="paging" :take-id="take.id" :plan="take.plan" :ppi="ppi" />
    <DeliverDialog v-if="take && picture" v-model="delivering" :take="take" :job-id="jobId" :picture="picture"
      :ordered-ppi="job?.order?.ppi ?? null" :border="border" :settle="settle" />
  </div>
</template>

<style scoped>
.bench {
  height: 100%;
  display: grid;
  grid-template: auto minmax(0, 1fr) auto / minmax(0, 1fr);
}
.strip-bar {
  display: flex;
  align-items: center;
  gap: 20px;
  min-height: 58px;
  padding: 6px 12px;
  background: rgb(var(--v-theme-surface));
  border-bottom: 1px solid rgba(var(--v-theme-on-surface), 0.14);
}
.where {
  display: flex;
  align-items: center;
  gap: 10px;
  width: 268px;
  flex: none;
  color: inherit;
  text-decoration: none;
}
.names {
  display: flex;
  flex-direction: column;
  min-width: 0;
  line-height: 1.25;
}
.names > * {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.strip {
  flex: 1;
}
.deliver {
  flex: none;
  margin-left: auto;
}
.table {
  position: relative;
  display: grid;
  grid-template: minmax(0, 1fr) auto / 292px minmax(0, 1fr);
  min-height: 0;
}
.left {
  overflow-y: auto;
  background: rgb(var(--v-theme-surface));
  border-right: 1px solid rgba(var(--v-theme-on-surface), 0.14);
}
.view {
  position: relative;
  background: rgb(var(--v-theme-background));
  overflow: hidden;
}
.problem {
  height: 100%;
  display: grid;
  place-items: center;
  padding: 48px;
  text-align: center;
}
.wide {
  grid-column: 1 / -1;
}
</style>
