<script setup lang="ts">
import { computed } from 'vue'

import type { Schemas } from '../api/client'
import StrengthSlider from '../parts/StrengthSlider.vue'
import { kindOf, type StepOf } from './kinds'

type Grain = StepOf<'grain'>

const props = defineProps<{ step: Grain; take: Schemas['TakeOut']; picture: Schemas['PictureOut'] }>()
const emit = defineEmits<{ change: [step: Grain, now?: boolean] }>()
const set = (changed: Partial<Grain>, now?: boolean) => emit('change', { ...props.step, ...changed }, now)

/** Grain as the source has it, at the size it has once enlarged. */
const matched = computed(() => {
  const noise = props.picture.reading?.noise
  if (!noise) return null
  const total = Math.hypot(noise.luminance, noise.colour)
  return {
    amount: Math.min(40, Math.round(noise.luminance * 10) / 10),
    size: Math.min(12, Math.max(0.5, Math.round((props.take.plan?.factor ?? 1) * 10) / 10)),
    colour: total ? Math.round((100 * noise.colour) / total) : 0,
  }
})
const usual = kindOf('grain').begun as StepOf<'grain'>
</script>

<template>
  <div class="settings">
    <v-btn
      size="small"
      :disabled="!matched"
      title="Amount, size and colour as the reading found them in the source"
      @click="set(matched!, true)"
      >Match the source's</v-btn
    >
    <StrengthSlider
      label="Amount"
      unit="of 255"
      :value="step.amount"
      :usual="usual.amount"
      :max="40"
      :step="0.5"
      :digits="1"
      hint="Look at the printed size: it should be felt, not seen"
      @change="(amount, now) => set({ amount }, now)"
    />
    <StrengthSlider
      label="Size"
      unit="px"
      :value="step.size"
      :usual="usual.size"
      :min="0.5"
      :max="12"
      :step="0.1"
      :digits="1"
      @change="(size, now) => set({ size }, now)"
    />
    <StrengthSlider
      label="Colour"
      :value="step.colour"
      :usual="usual.colour"
      hint="0 is the grey grain of film"
      @change="(colour, now) => set({ colour }, now)"
    />
    <StrengthSlider
      label="Spare black and white"
      :value="step.tones"
      :usual="usual.tones"
      @change="(tones, now) => set({ tones }, now)"
    />
  </div>
</template>
