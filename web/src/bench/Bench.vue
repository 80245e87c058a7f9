<script setup lang="ts">
import { useMutation, useQueryClient } from '@tanstack/vue-query'
import {
  mdiCardsOutline, mdiCircleHalfFull, mdiContentCopy, mdiKeyboardOutline, mdiPackageDown, mdiRedoVariant, mdiUndoVariant,
} from '@mdi/js'
import { computed, nextTick, ref, watch } from 'vue'
import { useRouter } from 'vue-router'

import { api } from '../api/client'
import ApplyCard from '../cards/ApplyCard.vue'
import SaveCard from '../cards/SaveCard.vue'
import DeliverDialog from '../deliveries/DeliverDialog.vue'
import { unfinished, useDeliveries } from '../deliveries/useDeliveries'
import { useJob } from '../jobs/useJobs'
import { resized, useBrush, type Stroke } from '../masks/useBrush'
import { usePicture, usePictures } from '../pictures/usePictures'
import { useNotice } from '../shell/useNotice'
import { useSurround } from '../shell/useSurround'
import { turned, type Frame } from '../steps/frame'
import type { Blur } from '../steps/blur'
import type { StepKind } from '../steps/registry'
import { useDrawing, type Drawn } from '../steps/useDrawing'
import CheckBoard, { type BoardSize } from '../board/CheckBoard.vue'
import { useSpots, type Spot } from '../board/useSpots'
import ProofCard from '../proofs/ProofCard.vue'
import AsPrint from '../prints/AsPrint.vue'
import OnPage from '../prints/OnPage.vue'
import ScreenRuler from '../prints/ScreenRuler.vue'
import { printPpi } from '../prints/ppi'
import PrintPlanner from '../prints/PrintPlanner.vue'
import { useTakes } from '../takes/useTakes'
import CropEditor from './CropEditor.vue'
import FidelityCard from './FidelityCard.vue'
import HistogramCard from './HistogramCard.vue'
import KeySheet from './KeySheet.vue'
import LargeView, { type Comparing, type Shown } from './LargeView.vue'
import SizeStrip from './SizeStrip.vue'
import TheLine from './TheLine.vue'
import { useKeys, type Key } from './useKeys'
import { useTake, type Step, type Take } from './useTake'

const props = defineProps<{ jobId: string; pictureId: string; takeId?: string }>()
const router = useRouter()
const client = useQueryClient()
const notice = useNotice()
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
const { brush, painting, overlay, peeking } = useBrush()
const { drawing, reading: readingArea } = useDrawing()
const comparing = ref<Comparing>('one')
const holding = ref(false)
const blinking = ref(false)
/** What stands beside the leading take: in the second pane, left of the divider, under the difference. */
const others = ref<Shown[]>(['original', 'original', 'original'])
const as = ref<'pixels' | 'clipping' | 'difference' | 'proof'>('pixels')
const gain = ref(4)
const histogram = ref(false)
const measuring = ref(false)
const paging = ref(false)
const asPrint = ref<InstanceType<typeof AsPrint>>()
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
const cropper = ref<InstanceType<typeof CropEditor>>()

const takes = computed(() => list.takes.value)
/** The takes as the bench shows them: the one being changed as it is now, not as it was last saved. */
const shownTakes = computed(() => takes.value.map((one) => (one.id === take.value?.id ? take.value : one)))
const framing = computed(() => {
  const step = openStep.value === null ? undefined : take.value?.steps[openStep.value]
  return step?.kind === 'frame' ? step : null
})
const running = computed(() => deliveries.value?.filter(unfinished).length ?? 0)

function show(id: string, replace = false) {
  const to = { name: 'bench', params: { jobId: props.jobId, pictureId: props.pictureId, takeId: id } }
  void (replace ? router.replace(to) : router.push(to))
}

const begin = useMutation({
  mutationFn: async (steps?: Step[]) => {
    await settle()
    return api.post<Take>(`/pictures/${props.pictureId}/takes`, { steps: steps ?? [] })
  },
  onSuccess: async (made) => {
    client.setQueryData(['takes', made.id], made)
    await list.refresh()
    show(made.id)
  },
  onError: notice.fault,
})

function duplicate() {
  if (take.value && !take.value.outside) begin.mutate(take.value.steps)
}
async function applied(takeOf: Record<string, string>) {
  await list.refresh()
  const made = takeOf[props.pictureId]
  if (made) show(made)
}
const start = useMutation({
  mutationFn: () => api.post<Take>(`/pictures/${props.pictureId}/suggested`),
  onSuccess: async (made) => {
    client.setQueryData(['takes', made.id], made)
    await list.refresh()
    show(made.id)
    notice.say(`Take ${made.name} is made of the suggested steps; the other takes are as they were.`)
  },
  onError: notice.fault,
})

// Without a take in the address, the picture's first one is shown.
watch(
  [picture, () => props.takeId],
  () => {
    if (!picture.value || props.takeId) return
    const first = picture.value.takes[0]
    if (first) show(first.id, true)
    else begin.mutate(undefined)
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
/** The step under the brush: one that is open, on, and has a mask. */
const painted = computed(() => {
  const step = painting.value === null || painting.value !== openStep.value ? undefined : take.value?.steps[painting.value]
  return step?.on && step.kind !== 'frame' && step.mask ? { step, mask: step.mask } : null
})
const maskOf = computed(() => {
  const open = openStep.value
  if (open === null || !take.value?.steps[open]?.on || !((painted.value && overlay.value) || peeking.value)) return null
  return take.value.steps.slice(0, open).filter((step) => step.on).length
})
function addStroke(stroke: Stroke) {
  if (!take.value || !painted.value || painting.value === null) return
  const { step, mask } = painted.value
  change(take.value.steps.toSpliced(painting.value, 1, { ...step, mask: { ...mask, strokes: [...(mask.strokes ?? []), stroke] } } as Step), true)
}
function pickBrush() {
  const open = openStep.value
  const step = open === null ? undefined : take.value?.steps[open]
  if (!take.value || open === null || !step || step.kind === 'frame') return
  if (!step.mask) change(take.value.steps.toSpliced(open, 1, { ...step, mask: { strokes: [], inverted: false } } as Step), true)
  painting.value = painting.value === open ? null : open
}
/** What was drawn tells the open step's blur. */
async function drawn(what: Drawn) {
  const place = drawing.value?.step
  drawing.value = null
  if (place === undefined || !take.value) return
  readingArea.value = what.what === 'area'
  try {
    await settle()
    const found = await api.post<{ blur: Blur | null; confidence: number }>(`/takes/${take.value.id}/steps/${place}/blur`, what)
    const step = take.value.steps[place]
    if (step?.kind !== 'deblur') return
    if (found.blur) change(take.value.steps.toSpliced(place, 1, { ...step, blur: found.blur }), true)
    if (!found.blur) notice.say('No blur was found there: it is as sharp as its pixels. The settings stay as they are.')
    else if (found.confidence < 0.6) notice.say('The reading there is little more than a guess; move the size and compare.')
  } catch (fault) {
    notice.fault(fault as Error)
  } finally {
    readingArea.value = false
  }
}
// Another step is opened, or another take: the brush is put down.
watch([openStep, () => props.takeId], () => {
  painting.value = null
  drawing.value = null
  peeking.value = false
})

function nextTake() {
  const place = takes.value.findIndex((one) => one.id === props.takeId)
  const next = takes.value[(place + 1) % takes.value.length]
  if (next) show(next.id)
}
// A take that is gone is not shown any more.
watch(takes, (now) => {
  if (now.length && props.takeId && !now.some((one) => one.id === props.takeId)) show(now[0]!.id, true)
})

/** What pane `place` (1 is the leading take's) can show: the original and the takes the other panes do not show yet. */
function swap(place: number) {
  if (place === 1) return nextTake()
  const choices: Shown[] = ['original', ...takes.value.filter((one) => one.plan && one.id !== props.takeId).map((one) => one.id)]
  const now = choices.indexOf(others.value[place - 2]!)
  others.value = others.value.with(place - 2, choices[(now + 1) % choices.length]!)
}
// Four panes are for takes: those that have not been picked yet are filled in.
watch(comparing, (now) => {
  if (now !== 'four') return
  const free = takes.value.filter((one) => one.plan && one.id !== props.takeId && !others.value.includes(one.id)).map((one) => one.id)
  others.value = others.value.map((one, index) => (index > 0 && one === 'original' ? (free.shift() ?? one) : one))
})
const second = computed(() => takes.value.find((one) => one.id === others.value[0])?.name ?? 'original')
/** In four panes one original is enough. */
const beside = computed(() => (comparing.value === 'four' ? others.value.filter((one, index) => others.value.indexOf(one) === index && one !== props.takeId) : others.value))

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
const typedZoom = ref('')
watch(zoom, (now) => (typedZoom.value = now < 0.1 ? (now * 100).toFixed(1) : String(Math.round(now * 100))), { immediate: true })
function zoomTyped() {
  const to = Number(typedZoom.value.replace(',', '.').replace('%', '')) / 100
  if (to >= 0.01 && to <= 64) large.value?.zoomTo(to)
  else typedZoom.value = String(Math.round(zoom.value * 100))
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
const comparisons: { value: Comparing; title: string }[] = [
  { value: 'one', title: 'one' },
  { value: 'divider', title: 'divider' },
  { value: 'sides', title: 'two' },
  { value: 'four', title: 'four' },
]

const keys = computed<Key[]>(() => [
  { key: 'o', shown: 'O, held', does: 'see the original', run: () => (holding.value = true), release: () => (holding.value = false) },
  { key: 'c', shown: 'C', does: 'one, divider, two, four', run: () => (comparing.value = comparisons[(comparisons.findIndex((one) => one.value === comparing.value) + 1) % comparisons.length]!.value) },
  { key: 'a', shown: 'A', does: 'blink with what stands beside', run: () => (blinking.value = !blinking.value) },
  ...[1, 2, 3, 4].map((place) => ({ key: `alt+${place}`, shown: 'Alt 1 … 4', does: 'another take in that pane', run: () => swap(place) })),
  { key: 'w', shown: 'W', does: 'another take beside', run: () => swap(2) },
  { key: 'x', shown: 'X', does: 'difference', run: () => (as.value = as.value === 'difference' ? 'pixels' : 'difference') },
  { key: 'm', shown: 'M', does: 'mark what is clipped', run: () => (as.value = as.value === 'clipping' ? 'pixels' : 'clipping') },
  { key: 'shift+j', shown: 'Shift J', does: 'soft proof', run: () => (as.value = as.value === 'proof' ? 'pixels' : 'proof') },
  { key: 'h', shown: 'H', does: 'histogram', run: () => (histogram.value = !histogram.value) },
  { key: 'y', shown: 'Y', does: 'fidelity report', run: () => (fidelity.value = !fidelity.value) },
  { key: 'k', shown: 'K', does: 'pin a check spot under the pointer', run: () => large.value?.pin() },
  { key: 'v', shown: 'V', does: 'check board: open, whole view, folded', run: nextBoard },
  { key: '0', shown: '0', does: 'fit the picture', run: () => large.value?.fit() },
  ...scales.map((scale, index) => ({ key: String(index + 1), shown: String(index + 1), does: `${scale * 100} %`, run: () => large.value?.zoomTo(scale) })),
  { key: '6', shown: '6', does: 'true size of the print', run: () => asPrint.value?.trueSize() },
  { key: '7', shown: '7', does: 'the print from its distance', run: () => asPrint.value?.fromFar() },
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
  { key: 'q', shown: 'Q', does: 'paint where the open step works', run: pickBrush },
  { key: ',', shown: ', ;', does: 'smaller or larger brush', run: () => (brush.size = resized(brush.size, -1)) },
  { key: ';', shown: ', ;', does: 'smaller or larger brush', run: () => (brush.size = resized(brush.size, 1)) },
  { key: 'r', shown: 'R', does: 'turn right', run: () => turn(1) },
  { key: 'shift+r', shown: 'Shift R', does: 'turn left', run: () => turn(3) },
  { key: '.', shown: '.', does: 'switch the open step off or on', run: () => openStep.value !== null && line.value?.toggle(openStep.value) },
  { key: 'alt+arrowup', shown: 'Alt ↑', does: 'move the open step earlier', run: () => openStep.value !== null && line.value?.move(openStep.value, openStep.value - 1) },
  { key: 'alt+arrowdown', shown: 'Alt ↓', does: 'move the open step later', run: () => openStep.value !== null && line.value?.move(openStep.value, openStep.value + 1) },
  { key: 'delete', shown: 'Del', does: 'remove the open step', run: () => openStep.value !== null && line.value?.remove(openStep.value) },
  { key: 'escape', shown: 'Esc', does: 'stop drawing; close the step', run: () => (drawing.value ? (drawing.value = null) : (openStep.value = null)) },
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
        <div class="takes">
          <v-menu>
            <template #activator="{ props: opener }">
              <v-btn v-bind="opener" class="which" variant="outlined" size="small" aria-label="Take" title="Next take (T)">take {{ take?.name }} ▾</v-btn>
            </template>
            <v-list density="compact" min-width="140">
              <v-list-item v-for="one in takes" :key="one.id" :title="`take ${one.name}`" :active="one.id === takeId" @click="show(one.id)" />
            </v-list>
          </v-menu>
          <v-btn :icon="mdiContentCopy" size="x-small" aria-label="New take like this one" title="New take like this one (N)" :disabled="Boolean(take?.outside)" @click="duplicate" />
          <v-menu>
            <template #activator="{ props: opener }">
              <v-btn v-bind="opener" :icon="mdiCardsOutline" size="x-small" aria-label="Cards" title="Save these steps as a card, or use one" />
            </template>
            <v-list density="compact">
              <v-list-item title="Save as a card" :disabled="Boolean(take?.outside)" @click="saving = true" />
              <v-list-item title="Use a card" @click="applying = true" />
            </v-list>
          </v-menu>
          <v-spacer />
          <span class="small quiet saved" role="status">{{ unsaved ? 'saving' : 'saved' }}</span>
          <v-btn :icon="mdiUndoVariant" size="x-small" aria-label="Undo" title="Undo (Ctrl Z)" :disabled="!take?.can_undo" @click="undo" />
          <v-btn :icon="mdiRedoVariant" size="x-small" aria-label="Redo" title="Redo (Ctrl Shift Z)" :disabled="!take?.can_redo" @click="redo" />
        </div>
        <TheLine v-if="take && picture" ref="line" v-model:open="openStep" v-model:reading="readingOpen" :take="take" :picture="picture" :job="job"
          :starting="start.isPending.value" @edit="change" @start="start.mutate()" />
      </aside>
      <section class="view" aria-label="Picture">
        <CropEditor v-if="framing && take && picture" ref="cropper" :step="framing" :take="take" :picture="picture" @change="changeFrame" />
        <LargeView v-else-if="take?.plan" ref="large" v-model:zoom="zoom" :lead="take" :plan="take.plan" :takes="shownTakes" :others="beside"
          :comparing="comparing" :holding="holding" :blinking="blinking" :as="as" :gain="gain"
          :mask-of="maskOf" :painting="painted !== null" :drawing="drawing?.what ?? null" :spots="board.spots.value" @pin="pin" @stroke="addStroke" @drawn="drawn"
          @move-spot="(spot, place) => board.alter.mutate({ id: spot.id, ...place, take_id: take!.id })" @remove-spot="board.remove.mutate($event)" />
        <div v-else-if="take?.problem" class="problem"><p>{{ take.problem }}</p></div>
        <ProofCard v-if="as === 'proof' && take?.plan && !framing" :take-id="take.id" :chain="take.plan.chain" @close="as = 'pixels'" />
        <HistogramCard v-if="histogram && take?.plan && !framing" :take-id="take.id" :chain="take.plan.chain" @close="histogram = false" />
        <FidelityCard v-if="fidelity && take?.plan && !framing" :take-id="take.id" :take-name="take.name" :plan="take.plan" @close="fidelity = false" @look="large?.lookAt($event, 1)" />
      </section>
      <CheckBoard v-if="picture" v-model:size="boardSize" class="wide" :takes="list" :spots="board" :lead-id="take?.id" @show="show($event)" @look="look"
        @duplicate="begin.mutate($event.steps)" />
    </main>
    <footer class="foot">
      <div class="group" role="group" aria-label="Compare">
        <button v-for="one in comparisons" :key="one.value" :aria-pressed="comparing === one.value" title="Compare (C)" @click="comparing = one.value">{{ one.title }}</button>
      </div>
      <v-menu>
        <template #activator="{ props: opener }">
          <button v-bind="opener" class="hold" aria-label="Beside" title="What stands beside, blinks and is subtracted (W)">with {{ second }} ▾</button>
        </template>
        <v-list density="compact">
          <v-list-item title="original" :active="others[0] === 'original'" @click="others = others.with(0, 'original')" />
          <v-list-item v-for="one in takes.filter((other) => other.id !== takeId && other.plan)" :key="one.id" :title="one.name" :active="others[0] === one.id" @click="others = others.with(0, one.id)" />
        </v-list>
      </v-menu>
      <button class="hold" :aria-pressed="blinking" title="Blink (A)" @click="blinking = !blinking">blink</button>
      <div class="group" role="group" aria-label="Show">
        <button :aria-pressed="as === 'difference'" title="Difference from what stands beside (X)" @click="as = as === 'difference' ? 'pixels' : 'difference'">difference</button>
        <button v-if="as === 'difference'" title="How much it is amplified" aria-label="Amplification" @click="gain = gain >= 16 ? 2 : gain * 2">×{{ gain }}</button>
        <button :aria-pressed="as === 'clipping'" title="Mark what is clipped (M)" @click="as = as === 'clipping' ? 'pixels' : 'clipping'">clipping</button>
        <button :aria-pressed="as === 'proof'" title="Soft proof: as a printer would print it (Shift J)" @click="as = as === 'proof' ? 'pixels' : 'proof'">proof</button>
        <button :aria-pressed="histogram" title="Histogram (H)" @click="histogram = !histogram">tones</button>
        <button :aria-pressed="fidelity" title="Fidelity report (Y)" @click="fidelity = !fidelity">fidelity</button>
      </div>
      <button class="hold" title="Hold to see the original (O)" @pointerdown="holding = true" @pointerup="holding = false" @pointerleave="holding = false">original</button>
      <v-spacer />
      <div class="group" role="group" aria-label="Zoom">
        <button title="Fit (0)" @click="large?.fit()">fit</button>
        <button v-for="(scale, index) in scales" :key="scale" :aria-pressed="Math.abs(zoom - scale) < 0.001" :title="`${scale * 100} % (${index + 1})`" :aria-label="`${scale * 100} %`" @click="large?.zoomTo(scale)">{{ scale * 100 }}</button>
      </div>
      <AsPrint v-if="take?.plan" ref="asPrint" :size="take.plan.size" :ppi="ppi" @zoom="large?.zoomTo($event)" @measure="measuring = true" @page="paging = true" />
      <span class="now"><input v-model="typedZoom" aria-label="Zoom in percent" inputmode="decimal" @keydown.enter="zoomTyped" @blur="zoomTyped" /> %</span>
      <v-btn :icon="mdiCircleHalfFull" size="x-small" aria-label="Next surround" title="Next surround grey (G)" @click="nextSurround" />
      <v-btn :icon="mdiKeyboardOutline" size="x-small" aria-label="Keys" title="Keys (?)" @click="sheet = true" />
    </footer>
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
.takes {
  display: flex;
  align-items: center;
  gap: 4px;
  padding: 10px 10px 4px 12px;
}
.saved {
  padding-right: 6px;
}
/* Long names give way, so that what stands beside them stays whole. */
.which {
  flex: 0 1 auto;
  min-width: 0;
  max-width: 122px;
}
.which :deep(.v-btn__content) {
  display: block;
  overflow: hidden;
  text-overflow: ellipsis;
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
.foot {
  display: flex;
  align-items: center;
  gap: 12px;
  padding: 5px 12px;
  background: rgb(var(--v-theme-surface));
  border-top: 1px solid rgba(var(--v-theme-on-surface), 0.14);
}
.wide {
  grid-column: 1 / -1;
}
.group {
  display: flex;
  border: 1px solid rgba(var(--v-theme-on-surface), 0.26);
  border-radius: 4px;
  overflow: hidden;
}
.group button,
.hold {
  padding: 3px 8px;
  font-size: 13px;
  white-space: nowrap;
  cursor: pointer;
}
.group button + button {
  border-left: 1px solid rgba(var(--v-theme-on-surface), 0.26);
}
.group button[aria-pressed='true'] {
  background: rgba(var(--v-theme-on-surface), 0.16);
  font-weight: 600;
}
.hold {
  border: 1px solid rgba(var(--v-theme-on-surface), 0.26);
  border-radius: 4px;
  user-select: none;
}
.hold:active,
.hold[aria-pressed='true'] {
  background: rgba(var(--v-theme-on-surface), 0.16);
}
.now {
  white-space: nowrap;
}
.now input {
  width: 40px;
  padding: 1px 4px;
  text-align: right;
  border: 1px solid rgba(var(--v-theme-on-surface), 0.26);
  border-radius: 4px;
}
</style>
