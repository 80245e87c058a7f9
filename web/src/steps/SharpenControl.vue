<script setup lang="ts">
import { kindOf, type StepOf } from './kinds'
import { useBrush } from '../masks/useBrush'
import ChoiceRow from '../parts/ChoiceRow.vue'
import StrengthSlider from '../parts/StrengthSlider.vue'

type Sharpen = StepOf<'sharpen'>

const props = defineProps<{ step: Sharpen }>()
const emit = defineEmits<{ change: [step: Sharpen, now?: boolean] }>()
const { peeking } = useBrush()
const set = (changed: Partial<Sharpen>, now?: boolean) => emit('change', { ...props.step, ...changed }, now)
/** What is protected is shown for as long as it is changed. */
function setShown(changed: Partial<Sharpen>, now?: boolean) {
  peeking.value = !now
  set(changed, now)
}

const starts = [
  {
    value: 'skin',
    title: 'Skin',
    what: 'Eyes and hair firm, pores left',
    settings: { amount: 70, radius: 1.2, detail: 20, threshold: 5, edges: 70, shadows: 50, highlights: 40 },
  },
  {
    value: 'cloth',
    title: 'Cloth',
    what: 'Weave, wood, sand',
    settings: { amount: 90, radius: 0.7, detail: 40, threshold: 1, edges: 10, shadows: 30, highlights: 30 },
  },
  {
    value: 'lines',
    title: 'Lines',
    what: 'Lettering, drawings, rigging',
    settings: { amount: 120, radius: 0.8, detail: 10, threshold: 3, edges: 80, shadows: 0, highlights: 0 },
  },
  {
    value: 'sky',
    title: 'Sky',
    what: 'Even tones with noise in them',
    settings: { amount: 50, radius: 1, detail: 20, threshold: 6, edges: 90, shadows: 60, highlights: 60 },
  },
] as const
const chosen = () =>
  starts.find((one) =>
    Object.entries(one.settings).every(([name, value]) => props.step[name as keyof Sharpen] === value),
  )?.value ?? null
const usual = kindOf('sharpen').begun as StepOf<'sharpen'>
</script>

<template>
  <div class="settings">
    <ChoiceRow
      label="Starting points"
      :choices="[...starts]"
      :chosen="chosen()"
      @choose="(name) => set({ ...starts.find((one) => one.value === name)!.settings }, true)"
    />
    <StrengthSlider
      label="Amount"
      unit="%"
      :value="step.amount"
      :usual="usual.amount"
      :max="300"
      hint="Look at it at the size of the print"
      @change="(amount, now) => set({ amount }, now)"
    />
    <StrengthSlider
      label="Radius"
      unit="px"
      :value="step.radius"
      :usual="usual.radius"
      :min="0.3"
      :max="8"
      :step="0.1"
      :digits="1"
      hint="Half the width of the edges that are to be firm"
      @change="(radius, now) => set({ radius }, now)"
    />
    <StrengthSlider
      label="Detail"
      :value="step.detail"
      :usual="usual.detail"
      hint="How far edges may stand out from what is around them: too much draws a second line"
      @change="(detail, now) => set({ detail }, now)"
    />
    <StrengthSlider
      label="Threshold"
      unit="of 255"
      :value="step.threshold"
      :usual="usual.threshold"
      :max="40"
      :step="0.5"
      :digits="1"
      hint="Raise it until noise stays as it is"
      @change="(threshold, now) => set({ threshold }, now)"
    />
    <StrengthSlider
      label="Edges alone"
      :value="step.edges"
      :usual="usual.edges"
      hint="Shown while you drag: tinted is sharpened"
      @change="(edges, now) => setShown({ edges }, now)"
    />
    <StrengthSlider
      label="Spare shadows"
      :value="step.shadows"
      :usual="usual.shadows"
      @change="(shadows, now) => setShown({ shadows }, now)"
    />
    <StrengthSlider
      label="Spare highlights"
      :value="step.highlights"
      :usual="usual.highlights"
      @change="(highlights, now) => setShown({ highlights }, now)"
    />
  </div>
</template>
