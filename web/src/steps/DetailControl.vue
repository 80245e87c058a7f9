<script setup lang="ts">
import FromPicture from './FromPicture.vue'
import { kindOf, type StepOf } from './kinds'
import SliderList from './SliderList.vue'

type Detail = StepOf<'detail'>

const props = defineProps<{ step: Detail; index: number }>()
const emit = defineEmits<{ change: [step: Detail, now?: boolean]; start: [] }>()
const set = (changed: Partial<Detail>, now?: boolean) => emit('change', { ...props.step, ...changed }, now)
const usual = kindOf('detail').begun as Detail

const sliders = [
  { name: 'small', title: 'Fine', what: 'Texture: hair, cloth, pores; below 0 smoother' },
  { name: 'medium', title: 'Middle', what: 'Folds, features, leaves' },
  { name: 'large', title: 'Broad', what: 'How things stand out from what is around them' },
] as const
const haze = [{ name: 'haze', title: 'Haze', what: 'Above 0 it is taken away, below 0 laid over' }] as const
</script>

<template>
  <div class="settings">
    <SliderList :sliders="sliders" :settings="step" :usual="usual" @change="set" />
    <SliderList :sliders="haze" :settings="step" :usual="usual" @change="set" />
    <FromPicture kind="detail" :index="index" @start="emit('start')" />
  </div>
</template>
