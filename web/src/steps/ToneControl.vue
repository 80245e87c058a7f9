<script setup lang="ts">
import FromPicture from './FromPicture.vue'
import { kindOf, type StepOf } from './kinds'
import SliderList from './SliderList.vue'

type Tone = StepOf<'tone'>

const props = defineProps<{ step: Tone; index: number }>()
const emit = defineEmits<{ change: [step: Tone, now?: boolean]; start: [] }>()
const set = (changed: Partial<Tone>, now?: boolean) => emit('change', { ...props.step, ...changed }, now)
const usual = kindOf('tone').begun as Tone

const sliders = [
  { name: 'ev', title: 'Light', unit: 'EV', min: -4, max: 4, step: 0.05, digits: 2, what: '1 is twice the light' },
  { name: 'contrast', title: 'Contrast', what: 'Tones further apart around the middle, or nearer to each other' },
  { name: 'shadows', title: 'Shadows', what: 'Dark tones lighter, or darker' },
  { name: 'highlights', title: 'Highlights', what: 'Light tones lighter, or darker' },
  { name: 'black', title: 'Black point', what: 'Below 0, tones lighter than now become black' },
  { name: 'white', title: 'White point', what: 'Above 0, tones darker than now become white' },
] as const
</script>

<template>
  <div class="settings">
    <FromPicture kind="tone" :index="index" @start="emit('start')" />
    <SliderList :sliders="sliders" :settings="step" :usual="usual" marks @change="set" />
  </div>
</template>
