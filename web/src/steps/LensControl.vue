<script setup lang="ts">
import { kindOf, type StepOf } from './kinds'
import SliderList from './SliderList.vue'

type Lens = StepOf<'lens'>

const props = defineProps<{ step: Lens }>()
const emit = defineEmits<{ change: [step: Lens, now?: boolean] }>()
const set = (changed: Partial<Lens>, now?: boolean) => emit('change', { ...props.step, ...changed }, now)
const usual = kindOf('lens').begun as Lens

const sliders = [
  { name: 'vignetting', title: 'Corners', what: 'Above 0 lighter, below 0 darker' },
  { name: 'begins', title: 'Begins at', unit: '%', min: 0, what: 'How far from the middle, of the way to the corner' },
  {
    name: 'red',
    title: 'Red fringe',
    unit: 'px',
    min: -8,
    max: 8,
    step: 0.05,
    digits: 2,
    what: 'How far red is moved outwards at the corner, in pixels of the source',
  },
  {
    name: 'blue',
    title: 'Blue fringe',
    unit: 'px',
    min: -8,
    max: 8,
    step: 0.05,
    digits: 2,
    what: 'How far blue is moved outwards at the corner',
  },
] as const
</script>

<template>
  <div class="settings">
    <SliderList :sliders="sliders" :settings="step" :usual="usual" @change="set" />
  </div>
</template>
