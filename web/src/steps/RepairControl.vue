<script setup lang="ts">
import { ref, watch } from 'vue'

import { kindOf, type StepOf } from './kinds'
import EngineChoice from './EngineChoice.vue'
import PassesChoice from './PassesChoice.vue'
import StrengthSlider from '../parts/StrengthSlider.vue'

type Repair = StepOf<'repair'>

const props = defineProps<{ step: Repair }>()
const emit = defineEmits<{ change: [step: Repair, now?: boolean] }>()
const set = (changed: Partial<Repair>, now?: boolean) => emit('change', { ...props.step, ...changed }, now)

const quality = ref('')
watch(
  () => props.step.quality,
  (value) => (quality.value = value ? String(value) : ''),
  { immediate: true },
)
function typed() {
  const value = Math.round(Number(quality.value))
  const wanted = quality.value.trim() && value >= 1 && value <= 100 ? value : null
  quality.value = wanted ? String(wanted) : ''
  if (wanted !== (props.step.quality ?? null)) set({ quality: wanted }, true)
}
const usual = kindOf('repair').begun as StepOf<'repair'>
</script>

<template>
  <div class="settings">
    <StrengthSlider
      label="Strength"
      :value="step.strength"
      :usual="usual.strength"
      hint="Look at edges against even tones: ringing goes, fine lines must stay"
      @change="(value, now) => set({ strength: value }, now)"
    />
    <StrengthSlider
      label="Bands"
      :value="step.banding"
      :usual="usual.banding"
      hint="Look at skies and walls: steps in even gradients go, up to 8 of 255 at 100"
      @change="(value, now) => set({ banding: value }, now)"
    />
    <v-text-field
      v-model="quality"
      label="Written at quality"
      placeholder="found by itself"
      persistent-placeholder
      inputmode="numeric"
      title="1 to 100, if you know it; empty, the engine judges by itself"
      @keydown.enter="typed"
      @blur="typed"
    />
    <PassesChoice :passes="step.passes" @change="(passes) => set({ passes }, true)" />
    <EngineChoice kind="repair" :chosen="step.engine" @choose="(engine) => set({ engine }, true)" />
  </div>
</template>
