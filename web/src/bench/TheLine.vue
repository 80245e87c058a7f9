<script setup lang="ts">
import { mdiArrowDown, mdiArrowUp, mdiClose, mdiPlus } from '@mdi/js'
import { ref } from 'vue'

import type { Schemas } from '../api/client'
import { useBrush } from '../masks/useBrush'
import MaskControl from '../masks/MaskControl.vue'
import { readingLine } from '../readings/readingText'
import SourceReading from '../readings/SourceReading.vue'
import { newStep, placeFor, stepKinds, type StepKind } from '../steps/registry'
import type { Step, Take } from './useTake'

const props = defineProps<{
  take: Take
  picture: Schemas['PictureOut']
  job?: Schemas['JobOut']
  /** The suggested start is being made a take. */
  starting: boolean
}>()
const open = defineModel<number | null>('open', { required: true })
/** Whether the source shows its reading. */
const reading = defineModel<boolean>('reading', { required: true })
const emit = defineEmits<{ edit: [steps: Step[], now: boolean]; start: [] }>()

const { painting } = useBrush()
const dragged = ref<number | null>(null)
const over = ref<number | null>(null)

const kinds = Object.keys(stepKinds) as StepKind[]

function change(index: number, step: Step, now = false) {
  emit('edit', props.take.steps.toSpliced(index, 1, step), now)
}
function toggle(index: number) {
  const step = props.take.steps[index]!
  change(index, { ...step, on: !step.on }, true)
}
function move(from: number, to: number) {
  if (to < 0 || to >= props.take.steps.length || from === to) return
  const step = props.take.steps[from]!
  emit('edit', props.take.steps.toSpliced(from, 1).toSpliced(to, 0, step), true)
  if (open.value === from) open.value = to
}
function remove(index: number) {
  emit('edit', props.take.steps.toSpliced(index, 1), true)
  open.value = null
}
function add(kind: StepKind) {
  if (props.take.outside) return
  const place = placeFor(kind, props.take.steps)
  emit('edit', props.take.steps.toSpliced(place, 0, newStep(kind, props.picture.facts)), true)
  open.value = place
}
function drop(to: number) {
  if (dragged.value !== null) move(dragged.value, to)
  dragged.value = over.value = null
}
defineExpose({ add, toggle, move, remove })
</script>

<template>
  <ol class="line" aria-label="Steps">
    <li class="knot-row source">
      <span class="knot ball" aria-hidden="true" />
      <div class="label">
        <button class="name" :aria-expanded="reading" title="What was measured in it, and a suggested start (L)" @click="reading = !reading">
          <strong>source</strong>
          <span class="quiet small">{{ picture.reading ? readingLine(picture.reading) || 'nothing amiss was found' : 'being read' }}</span>
        </button>
        <SourceReading v-if="reading" :picture-id="picture.id" :busy="starting" @start="emit('start')" />
      </div>
    </li>
    <li v-for="(step, index) in take.steps" :key="`${index}-${step.kind}`" class="knot-row"
      :class="{ off: !step.on, over: over === index, open: open === index }" draggable="true"
      @dragstart="dragged = index" @dragover.prevent="over = index" @dragleave="over = null" @dragend="dragged = over = null"
      @drop.prevent="drop(index)">
      <button class="knot" :aria-pressed="step.on" :aria-label="`${stepKinds[step.kind].title} ${step.on ? 'on' : 'off'}`"
        :title="step.on ? 'Switch off ( . )' : 'Switch on ( . )'" @click="toggle(index)" />
      <div class="label">
        <button class="name" :aria-expanded="open === index" @click="open = open === index ? null : index">
          <strong>{{ stepKinds[step.kind].title }}</strong>
          <span class="quiet small">{{ stepKinds[step.kind].summary(step as never, take) }}</span>
        </button>
        <div v-if="open === index" class="controls">
          <component :is="stepKinds[step.kind].control" :step="step as never" :index="index" :take="take" :picture="picture" :job="job"
            @change="(changed: Step, now?: boolean) => change(index, changed, now)" />
          <MaskControl v-if="step.kind !== 'frame'" :class="{ first: painting === index }" :mask="step.mask ?? null" :index="index" :what="stepKinds[step.kind].title"
            @change="change(index, { ...step, mask: $event } as Step, true)" />
          <div class="foot">
            <v-btn :icon="mdiArrowUp" size="x-small" :disabled="index === 0" aria-label="Earlier" title="Earlier (Alt ↑)" @click="move(index, index - 1)" />
            <v-btn :icon="mdiArrowDown" size="x-small" :disabled="index === take.steps.length - 1" aria-label="Later" title="Later (Alt ↓)" @click="move(index, index + 1)" />
            <v-spacer />
            <v-btn size="small" :prepend-icon="mdiClose" @click="remove(index)">Remove</v-btn>
          </div>
        </div>
      </div>
    </li>
    <li v-if="take.outside" class="knot-row">
      <span class="knot ball" aria-hidden="true" />
      <div class="label">
        <strong>made elsewhere</strong>
        <p class="quiet small">{{ take.outside }} was laid on the picture. It has no steps; it is here to be compared.</p>
      </div>
    </li>
    <li v-else class="knot-row">
      <v-menu>
        <template #activator="{ props: opener }">
          <button v-bind="opener" class="add">
            <v-icon :icon="mdiPlus" size="16" /> <span>add a step</span>
          </button>
        </template>
        <v-list density="compact">
          <v-list-item v-for="kind in kinds" :key="kind" :title="stepKinds[kind].title" :subtitle="stepKinds[kind].purpose" @click="add(kind)" />
        </v-list>
      </v-menu>
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
.foot {
  display: flex;
  margin-top: 10px;
}
.add {
  grid-column: 1 / -1;
  display: flex;
  align-items: center;
  gap: 12px;
  padding: 8px 12px;
  cursor: pointer;
  position: relative;
}
.add .v-icon {
  background: rgb(var(--v-theme-surface));
  margin-left: 0;
}
</style>
