<script setup lang="ts">
import { computed, ref } from 'vue'

import GuardedPart from '../parts/GuardedPart.vue'
import { useKeys } from '../parts/useKeys'
import MaskControl from '../masks/MaskControl.vue'
import { maskLine } from '../masks/parts'
import { readingLine } from '../readings/readingText'
import SourceReading from '../readings/SourceReading.vue'
import { inResult, type OneFace } from '../steps/faces'
import { kindOf, kindsOfSteps, placeFor, type StepKind } from '../steps/kinds'
import { newStep, shownKind, shownKinds } from '../steps/registry'
import type { Step } from '../takes/queries'
import AddStep from './AddStep.vue'
import StepFoot from './StepFoot.vue'
import { useBench } from './useBench'

const bench = useBench()
const { take, picture, job, openStep, open, change: edit } = bench

const { masks, drawing } = bench.hands
const dragged = ref<number | null>(null)
const over = ref<number | null>(null)

const steps = computed(() => take.value?.steps ?? [])
const told = computed(() => ({ ...picture.value!.facts, faces: picture.value!.reading?.faces }))

function change(index: number, step: Step, now = false) {
  edit(steps.value.with(index, step), now)
}
function toggle(index: number) {
  const step = steps.value[index]!
  change(index, { ...step, on: !step.on }, true)
}
function move(from: number, to: number) {
  if (to < 0 || to >= steps.value.length || from === to) return
  edit(steps.value.toSpliced(from, 1).toSpliced(to, 0, steps.value[from]!), true)
  if (openStep.value === from) openStep.value = to
}
function remove(index: number) {
  edit(steps.value.toSpliced(index, 1), true)
  openStep.value = null
}
function add(kind: StepKind) {
  if (!take.value || take.value.outside) return
  const place = placeFor(kind, steps.value)
  edit(steps.value.toSpliced(place, 0, newStep(kind, told.value)), true)
  openStep.value = place
}
/** A check spot on every face that has none, and the board with them. */
async function pinFaces(faces: OneFace[]) {
  const taken = new Set(bench.spots.spots.value.map((spot) => spot.name))
  for (const [index, face] of faces.entries()) {
    const name = `face ${index + 1}`
    if (taken.has(name)) continue
    const { x, y } = inResult(face, take.value!.plan!)
    await bench.spots.pin.mutateAsync({ x, y, take_id: take.value!.id, name })
  }
  if (bench.boardSize.value === 'folded') bench.boardSize.value = 'open'
}
function drop(to: number) {
  if (dragged.value !== null) move(dragged.value, to)
  dragged.value = over.value = null
}
function pick(way: 1 | -1) {
  const count = steps.value.length
  if (!count) return
  openStep.value = openStep.value === null ? (way > 0 ? 0 : count - 1) : (openStep.value + way + count) % count
}
function openKind(kind: StepKind) {
  const place = steps.value.findIndex((step) => step.kind === kind)
  // What is not on the line yet is put there.
  if (place < 0) add(kind)
  else openStep.value = openStep.value === place ? null : place
}
/** Do something with the step that is open, if one is. */
const withOpen = (act: (index: number) => void) => () => openStep.value !== null && act(openStep.value)

useKeys(() => [
  ...kindsOfSteps.flatMap(({ kind, title }) => {
    const { key } = shownKinds[kind]
    return key
      ? [
          {
            key,
            shown: key.replace('shift+', 'Shift ').replace(/.$/, (letter) => letter.toUpperCase()),
            does: title,
            group: 'steps' as const,
            run: () => openKind(kind),
          },
        ]
      : []
  }),
  { key: '[', shown: '[', does: 'open the step before', group: 'steps', run: () => pick(-1) },
  { key: ']', shown: ']', does: 'open the step after', group: 'steps', run: () => pick(1) },
  { key: '.', shown: '.', does: 'switch the open step off or on', group: 'steps', run: withOpen(toggle) },
  {
    key: 'alt+arrowup',
    shown: 'Alt ↑',
    does: 'move the open step earlier',
    group: 'steps',
    run: withOpen((at) => move(at, at - 1)),
  },
  {
    key: 'alt+arrowdown',
    shown: 'Alt ↓',
    does: 'move the open step later',
    group: 'steps',
    run: withOpen((at) => move(at, at + 1)),
  },
  { key: 'delete', shown: 'Del', does: 'remove the open step', group: 'steps', run: withOpen(remove) },
  { key: 'l', shown: 'L', does: 'what was measured', group: 'steps', run: () => (open.reading = !open.reading) },
])
</script>

<template>
  <ol v-if="take && picture" class="line" aria-label="Steps">
    <li class="knot-row source">
      <span class="knot ball" aria-hidden="true" />
      <div class="label">
        <button
          class="name"
          :aria-expanded="open.reading"
          title="What was measured in it, and a suggested start (L)"
          @click="open.reading = !open.reading"
        >
          <strong>source</strong>
          <span class="quiet small">{{
            picture.reading ? readingLine(picture.reading) || 'nothing amiss was found' : 'being read'
          }}</span>
        </button>
        <SourceReading
          v-if="open.reading"
          :picture-id="picture.id"
          :facts="picture.facts"
          :has="(kind: StepKind) => steps.some((step) => step.kind === kind)"
          :busy="bench.suggest.isPending.value"
          :bringing="bench.camera.isPending.value"
          @start="bench.suggest.mutate()"
          @camera="bench.camera.mutate()"
          @rehearse="open.rehearsal = true"
          @add="add"
        />
      </div>
    </li>
    <li
      v-for="(step, index) in take.steps"
      :key="`${index}-${step.kind}`"
      class="knot-row"
      :class="{ off: !step.on, over: over === index, open: openStep === index }"
      draggable="true"
      @dragstart="dragged = index"
      @dragover.prevent="over = index"
      @dragleave="over = null"
      @dragend="dragged = over = null"
      @drop.prevent="drop(index)"
    >
      <button
        class="knot"
        :aria-pressed="step.on"
        :aria-label="`${kindOf(step.kind).title} ${step.on ? 'on' : 'off'}`"
        :title="step.on ? 'Switch off ( . )' : 'Switch on ( . )'"
        @click="toggle(index)"
      />
      <div class="label">
        <button class="name" :aria-expanded="openStep === index" @click="openStep = openStep === index ? null : index">
          <strong>{{ kindOf(step.kind).title }}</strong>
          <span class="quiet small">{{ shownKind(step).summary(step as never, take) }}</span>
          <span v-if="step.mask && step.kind !== 'give-back'" class="quiet small">{{ maskLine(step.mask) }}</span>
        </button>
        <div v-if="openStep === index" class="controls">
          <GuardedPart :what="kindOf(step.kind).title">
            <component
              :is="shownKind(step).control"
              :step="step as never"
              :index="index"
              :take="take"
              :picture="picture"
              :job="job"
              @change="(changed: Step, now?: boolean) => change(index, changed, now)"
              @start="bench.hands.start(index)"
              @pin="pinFaces"
              @steps="(changed: Step[]) => bench.change(changed, true)"
              @laid="open.laid = true"
              @patch="bench.hands.patches.toggle"
              @from="bench.hands.patches.pick"
              @find="bench.hands.patches.find"
              @look="(face: OneFace) => bench.view.value?.lookAt(inResult(face, take!.plan!), 1)"
            />
          </GuardedPart>
          <GuardedPart what="The mask">
            <MaskControl
              v-if="kindOf(step.kind).takes_mask"
              :class="{ first: masks.brushing.value }"
              :mask="step.mask ?? null"
              :index="index"
              :what="kindOf(step.kind).title"
              :picture="picture"
              :picking="drawing?.what === 'range' || drawing?.what === 'subject'"
              :finding="masks.finding.value"
              @change="(mask, now) => change(index, { ...step, mask } as Step, now)"
              @add="(kind) => masks.addPart(kind, told.faces ?? [])"
              @pick="masks.pick"
              @find="masks.find"
              @again="masks.findAnew"
              @hints="masks.pickHints"
              @paint="masks.pickBrush"
            />
          </GuardedPart>
          <StepFoot
            :first="index === 0"
            :last="index === take.steps.length - 1"
            @earlier="move(index, index - 1)"
            @later="move(index, index + 1)"
            @remove="remove(index)"
          />
        </div>
      </div>
    </li>
    <li v-if="take.outside" class="knot-row">
      <span class="knot ball" aria-hidden="true" />
      <div class="label">
        <strong>made elsewhere</strong>
        <p class="quiet small">
          {{ take.outside }} was laid on the picture. It has no steps; it is here to be compared.
        </p>
      </div>
    </li>
    <li v-else class="knot-row">
      <AddStep :raw="Boolean(picture.facts.raw)" :has="(kind) => steps.some((step) => step.kind === kind)" @add="add" />
    </li>
  </ol>
</template>

<style scoped>
.line {
  list-style: none;
  padding: 10px 0 16px;
  position: relative;
}
.knot-row {
  position: relative;
  display: grid;
  grid-template-columns: 40px 1fr;
  padding-right: 12px;
}
/* The string that holds the knots. */
.knot-row::before {
  content: '';
  position: absolute;
  left: 19px;
  top: 0;
  bottom: 0;
  width: 1.5px;
  background: rgba(var(--v-theme-on-surface), 0.45);
}
.source::before {
  top: 18px;
}
.knot-row:last-child::before {
  bottom: auto;
  height: 18px;
}
.knot {
  position: relative;
  justify-self: center;
  align-self: start;
  margin-top: 11px;
  width: 14px;
  height: 14px;
  transform: rotate(45deg);
  background: rgb(var(--v-theme-primary));
  border: 2px solid rgb(var(--v-theme-primary));
  box-shadow: 0 0 0 4px rgb(var(--v-theme-surface));
  cursor: pointer;
}
.off .knot {
  background: rgb(var(--v-theme-surface));
  border-color: rgba(var(--v-theme-on-surface), 0.6);
}
.ball {
  border-radius: 50%;
  background: rgba(var(--v-theme-on-surface), 0.85);
  border: 0;
  width: 11px;
  height: 11px;
  cursor: default;
}
.off .name strong {
  font-weight: 400;
  text-decoration: line-through;
}
.over {
  box-shadow: inset 0 2px 0 rgb(var(--v-theme-primary));
}
.label {
  min-width: 0;
  padding: 7px 0;
}
.label > span,
.name {
  display: block;
  overflow: hidden;
  text-overflow: ellipsis;
}
.name {
  width: 100%;
  text-align: left;
  cursor: pointer;
}
.name span {
  display: block;
}
.controls {
  display: flex;
  flex-direction: column;
  padding: 10px 0 4px;
}
/* The brush is in hand: what belongs to it comes first. */
.controls > .first {
  order: -1;
  margin: 0 0 12px;
  padding: 0 0 10px;
  border-top: 0;
  border-bottom: 1px solid rgba(var(--v-theme-on-surface), 0.14);
}
</style>
