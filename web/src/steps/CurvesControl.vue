<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'

import ChoiceRow from '../parts/ChoiceRow.vue'
import FoldSection from '../parts/FoldSection.vue'
import StrengthSlider from '../parts/StrengthSlider.vue'
import type { Take } from '../takes/useTake'
import { useMarks } from '../viewer/useMarks'
import CurveEditor from './CurveEditor.vue'
import FromPicture from './FromPicture.vue'
import { kindOf, type StepOf } from './kinds'
import { straight, type Point } from './monotone'
import { stepQueries } from './queries'
import SliderList from './SliderList.vue'

type Curves = StepOf<'curves'>

const props = defineProps<{ step: Curves; index: number; take: Take }>()
const emit = defineEmits<{ change: [step: Curves, now?: boolean]; start: [] }>()
const set = (changed: Partial<Curves>, now?: boolean) => emit('change', { ...props.step, ...changed }, now)
const usual = kindOf('curves').begun as Curves
const { clipped } = useMarks()

const channels = [
  { value: 'all', title: 'All', what: 'All channels alike', colour: '#d8d8d8' },
  { value: 'red', title: 'Red', what: 'Red alone', colour: '#ff6b5e' },
  { value: 'green', title: 'Green', what: 'Green alone', colour: '#6fd36f' },
  { value: 'blue', title: 'Blue', what: 'Blue alone', colour: '#6ea8ff' },
  { value: 'luma', title: 'Luma', what: 'How light it is; colours keep their distance from grey', colour: '#d8d8d8' },
] as const
type Channel = (typeof channels)[number]['value']
const channel = ref<Channel>('all')
const points = computed(() => (props.step[channel.value] ?? []) as Point[])
/** Those that do something are marked. */
const choices = computed(() =>
  channels.map((one) => ({
    ...one,
    title: straight((props.step[one.value] ?? []) as Point[]) ? one.title : `${one.title} •`,
  })),
)

/** What changes what the step is given; not the step itself. */
const before = computed(() => JSON.stringify(props.take.steps.slice(0, props.index)))
const { data: tones } = useQuery(computed(() => stepQueries.tones(props.take.id, props.index, before.value)))
const colours = channels.slice(1, 4).map((one) => one.colour)
const counts = computed(() => {
  const all = (tones.value?.counts ?? []).map((counts, at) => ({ counts, colour: colours[at] ?? '#d8d8d8', at }))
  if (all.length === 1) return [{ ...all[0]!, colour: '#d8d8d8' }]
  const own = ['red', 'green', 'blue'].indexOf(channel.value)
  return own < 0 ? all : all.filter(({ at }) => at === own)
})
const beyond = computed<[number, number]>(() => [
  Math.max(0, ...(tones.value?.shadows ?? [])),
  Math.max(0, ...(tones.value?.highlights ?? [])),
])
function draw(drawn: Point[], now?: boolean) {
  clipped.value = !now
  set({ [channel.value]: drawn }, now)
}

const levels = [
  { name: 'black', title: 'Black', min: 0, max: 0.9, step: 0.005, digits: 3, what: 'The value that becomes black' },
  {
    name: 'middle',
    title: 'Middle',
    min: 0.2,
    max: 5,
    step: 0.01,
    digits: 2,
    what: 'Above 1 the middle tones become lighter',
  },
  { name: 'white', title: 'White', min: 0.1, max: 2, step: 0.005, digits: 3, what: 'The value that becomes white' },
  { name: 'darkest', title: 'Darkest', min: 0, max: 0.9, step: 0.005, digits: 3, what: 'What black is given out as' },
  { name: 'lightest', title: 'Lightest', min: 0.1, max: 1, step: 0.005, digits: 3, what: 'What white is given out as' },
] as const
const levelled = computed(() => levels.some(({ name }) => props.step[name] !== usual[name]))
function resetLevels() {
  set(Object.fromEntries(levels.map(({ name }) => [name, usual[name]])) as Partial<Curves>, true)
}
</script>

<template>
  <div class="settings">
    <ChoiceRow label="Channel" :choices="choices" :chosen="channel" @choose="channel = $event" />
    <CurveEditor :label="`Curve of ${channel}`" :points="points" :counts="counts" :clipped="beyond" @change="draw" />
    <div class="under small quiet">
      <span>Click to put a point, drag it; Del takes it away</span>
      <button v-if="points.length" class="reset" @click="set({ [channel]: [] }, true)">straight</button>
    </div>
    <FoldSection name="curves levels" title="Levels" :changed="levelled" @reset="resetLevels">
      <FromPicture kind="curves" :index="index" @start="emit('start')" />
      <SliderList :sliders="levels" :settings="step" :usual="usual" marks @change="set" />
    </FoldSection>
    <StrengthSlider
      label="Strength"
      :value="step.strength"
      :usual="usual.strength"
      hint="How much of all of it is done"
      @change="(strength, now) => set({ strength }, now)"
    />
  </div>
</template>

<style scoped>
.under {
  display: flex;
  justify-content: space-between;
  gap: 8px;
}
.reset {
  text-decoration: underline;
  cursor: pointer;
}
</style>
