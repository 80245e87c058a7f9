<script setup lang="ts">
import StrengthSlider from '../parts/StrengthSlider.vue'
import { kindOf, type StepOf } from './kinds'

type Exposure = StepOf<'exposure'>

const props = defineProps<{ step: Exposure }>()
const emit = defineEmits<{ change: [step: Exposure, now?: boolean] }>()
const set = (changed: Partial<Exposure>, now?: boolean) => emit('change', { ...props.step, ...changed }, now)
const usual = kindOf('exposure').begun as Exposure
</script>

<template>
  <div class="settings">
    <StrengthSlider
      label="Exposure"
      unit="EV"
      :value="step.ev"
      :usual="usual.ev"
      :min="-10"
      :max="10"
      :step="0.05"
      :digits="2"
      hint="1 is twice the light, −1 half of it; nothing is cut off inside"
      @change="(ev, now) => set({ ev }, now)"
    />
    <StrengthSlider
      label="Black"
      :value="step.black"
      :usual="usual.black"
      :min="-1"
      :max="0.5"
      :step="0.005"
      :digits="3"
      hint="The value that becomes black; below 0 it brings in what is darker than black"
      @change="(black, now) => set({ black }, now)"
    />
  </div>
</template>
