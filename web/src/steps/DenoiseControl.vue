<script setup lang="ts">
import type { Schemas } from '../api/client'
import EngineChoice from './EngineChoice.vue'
import StrengthSlider from './StrengthSlider.vue'

type Denoise = Extract<Schemas['TakeOut']['steps'][number], { kind?: 'denoise' }>

const props = defineProps<{ step: Denoise }>()
const emit = defineEmits<{ change: [step: Denoise, now?: boolean] }>()
const set = (changed: Partial<Denoise>, now?: boolean) => emit('change', { ...props.step, ...changed }, now)
</script>

<template>
  <div class="settings">
    <StrengthSlider label="Luminance" :value="step.luminance ?? 60" hint="Look at skin and cloth: too much looks like paint"
      @change="(value, now) => set({ luminance: value }, now)" />
    <StrengthSlider label="Colour" :value="step.colour ?? 90" hint="Look at dark, even areas: blotches go, small colours must stay"
      @change="(value, now) => set({ colour: value }, now)" />
    <p class="small quiet">100 takes all the noise away that is found; 50 leaves half of it.</p>
    <EngineChoice kind="denoise" :chosen="step.engine ?? 'denoise'" @choose="(engine) => set({ engine }, true)" />
  </div>
</template>
