<script setup lang="ts">
import { kindOf, type StepOf } from './kinds'
import { computed } from 'vue'

import type { Schemas } from '../api/client'
import { number } from '../parts/format'
import ChoiceRow from '../parts/ChoiceRow.vue'
import EngineChoice from './EngineChoice.vue'
import PassesChoice from './PassesChoice.vue'
import FrontierControl from './FrontierControl.vue'
import StrengthSlider from '../parts/StrengthSlider.vue'
import type { Denoise } from './frontier'

const props = defineProps<{ step: Denoise; index: number; take: Schemas['TakeOut']; picture: Schemas['PictureOut'] }>()
const emit = defineEmits<{ change: [step: Denoise, now?: boolean] }>()
const set = (changed: Partial<Denoise>, now?: boolean) => emit('change', { ...props.step, ...changed }, now)

const strengths = [
  {
    value: 'light',
    title: 'Light',
    what: 'Half of it stays: grain is felt, skin keeps its pores',
    settings: { luminance: 45, colour: 80, detail: 0 },
  },
  { value: 'medium', title: 'Medium', what: 'A fifth of it stays', settings: { luminance: 80, colour: 90, detail: 0 } },
  { value: 'strong', title: 'Strong', what: 'Hardly any stays', settings: { luminance: 95, colour: 100, detail: 0 } },
] as const
const chosen = computed(
  () =>
    strengths.find(
      ({ settings }) =>
        settings.luminance === props.step.luminance && settings.colour === props.step.colour && !props.step.detail,
    )?.value ?? null,
)
/** What the reading advises, in a sentence; noise without colour in it may be grain that belongs there. */
const advice = computed(() => {
  const noise = props.picture.reading?.noise
  if (!noise) return 'The picture has not been read yet.'
  const told = `The reading found σ ${number(noise.luminance, 1)} luminance, ${number(noise.colour, 1)} colour`
  if (noise.luminance < 1.6 && noise.colour < 1.3) return `${told}: hardly any noise; leave it, or light.`
  if (noise.colour < 1.3 && noise.luminance < 6)
    return `${told}: without colour it may be grain or texture; light, and compare.`
  return `${told}: ${noise.luminance < 4 ? 'light' : noise.luminance < 6 ? 'medium' : 'strong'}.`
})
const usual = kindOf('denoise').begun as StepOf<'denoise'>
</script>

<template>
  <div class="settings">
    <ChoiceRow
      label="How much"
      :choices="[...strengths]"
      :chosen="chosen"
      @choose="(name) => set({ ...strengths.find((one) => one.value === name)!.settings }, true)"
    />
    <p class="small quiet">{{ advice }}</p>
    <FrontierControl :step="step" :index="index" :take="take" @change="(changed, now) => set(changed, now)" />
    <StrengthSlider
      label="Luminance"
      :value="step.luminance"
      :usual="usual.luminance"
      hint="Look at skin and cloth: too much looks like paint"
      @change="(value, now) => set({ luminance: value }, now)"
    />
    <StrengthSlider
      label="Colour"
      :value="step.colour"
      :usual="usual.colour"
      hint="Look at dark, even areas: blotches go, small colours must stay"
      @change="(value, now) => set({ colour: value }, now)"
    />
    <StrengthSlider
      label="Detail given back"
      :value="step.detail"
      :usual="usual.detail"
      hint="Of what luminance lost, where there is texture; even tones stay clean"
      @change="(value, now) => set({ detail: value }, now)"
    />
    <p class="small quiet">100 takes all the noise away that is found; 50 leaves half of it.</p>
    <PassesChoice :passes="step.passes" @change="(passes) => set({ passes }, true)" />
    <EngineChoice kind="denoise" :chosen="step.engine" @choose="(engine) => set({ engine }, true)" />
  </div>
</template>
