<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'

import type { Schemas } from '../api/client'
import ChoiceRow from '../parts/ChoiceRow.vue'
import { number } from '../parts/format'
import StrengthSlider from '../parts/StrengthSlider.vue'
import FromPicture from './FromPicture.vue'
import { kindOf, type StepOf } from './kinds'
import { stepQueries } from './queries'

type Develop = StepOf<'develop'>

const props = defineProps<{ step: Develop; index: number; picture: Schemas['PictureOut'] }>()
const emit = defineEmits<{ change: [step: Develop, now?: boolean]; start: [] }>()
const set = (changed: Partial<Develop>, now?: boolean) => emit('change', { ...props.step, ...changed }, now)
const usual = kindOf('develop').begun as Develop
const { limits } = kindOf('develop')
const raw = computed(() => props.picture.facts.raw)

/** Lights people know by name. */
const lights = [
  { kelvin: 2850, title: 'Bulb' },
  { kelvin: 4000, title: 'Tube' },
  { kelvin: 5500, title: 'Sun' },
  { kelvin: 6500, title: 'Cloud' },
  { kelvin: 7500, title: 'Shade' },
]
const shotText = computed(() =>
  raw.value ? `${number(raw.value.kelvin, 0)} K, tint ${number(raw.value.tint, 1)}, as the camera had it` : '',
)
const whites = [
  { value: 'as shot' as const, title: 'As shot', what: 'As the camera balanced it' },
  { value: 'kelvin' as const, title: 'By light', what: 'For light of a temperature' },
]
function chooseWhite(white: Develop['white']) {
  // What is chosen by light begins where the camera was.
  const begun = raw.value && props.step.white === 'as shot'
  const shot = begun ? { kelvin: held(raw.value!.kelvin, 'kelvin'), tint: held(raw.value!.tint, 'tint') } : {}
  set(white === 'kelvin' ? { white, ...shot } : { white }, true)
}
const held = (value: number, name: string) =>
  Math.max(limits[name]!.least!, Math.min(limits[name]!.most!, Math.round(value)))

const qualities = [
  { value: 'fine' as const, title: 'Fine', what: 'Finest detail, no false colours' },
  { value: 'quick' as const, title: 'Quick', what: 'Softer, for a first look at many' },
]

const words = ref('')
const { data: lenses } = useQuery(
  computed(() => ({
    ...stepQueries.lenses(props.picture.id, words.value.trim()),
    enabled: !!raw.value && props.step.lens,
  })),
)
const profile = computed(() => props.step.profile || lenses.value?.found || null)
</script>

<template>
  <div class="settings">
    <div class="head">
      <strong class="small">White balance</strong>
      <FromPicture kind="develop" :index="index" @start="emit('start')" />
    </div>
    <ChoiceRow label="White balance" :choices="whites" :chosen="step.white" @choose="chooseWhite" />
    <p v-if="step.white === 'as shot'" class="small quiet">{{ shotText }}</p>
    <p v-else-if="step.white === 'grey'" class="small quiet">By the place you picked.</p>
    <template v-else>
      <ChoiceRow
        label="Light"
        :choices="lights.map((one) => ({ value: one.kelvin, title: one.title, what: `${one.kelvin} K` }))"
        :chosen="step.kelvin"
        @choose="(kelvin) => set({ kelvin, tint: 0 }, true)"
      />
      <StrengthSlider
        label="Temperature"
        unit="K"
        :value="step.kelvin"
        :usual="usual.kelvin"
        :min="limits.kelvin!.least!"
        :max="limits.kelvin!.most!"
        :step="50"
        hint="Of the light it was taken in: more makes the picture warmer"
        @change="(kelvin, now) => set({ kelvin }, now)"
      />
      <StrengthSlider
        label="Tint"
        :value="step.tint"
        :usual="usual.tint"
        :min="limits.tint!.least!"
        :max="limits.tint!.most!"
        :step="0.5"
        :digits="1"
        hint="How much greener the light was: more makes the picture more magenta"
        @change="(tint, now) => set({ tint }, now)"
      />
    </template>
    <StrengthSlider
      label="Exposure"
      unit="EV"
      :value="step.ev"
      :usual="usual.ev"
      :min="limits.ev!.least!"
      :max="limits.ev!.most!"
      :step="0.05"
      :digits="2"
      hint="In linear light; 1 is twice as much"
      @change="(ev, now) => set({ ev }, now)"
    />
    <StrengthSlider
      label="Highlights back"
      :value="step.highlights"
      :usual="usual.highlights"
      hint="What the sensor could not hold, by the colours it did hold and those around; 0 cuts it off"
      @change="(highlights, now) => set({ highlights }, now)"
    />
    <label class="small check">
      <input
        type="checkbox"
        :checked="step.lens"
        @change="set({ lens: ($event.target as HTMLInputElement).checked }, true)"
      />
      undo what the lens did
    </label>
    <template v-if="step.lens">
      <p class="small quiet">{{ profile ?? 'No profile was found for its lens; choose one, if you know it.' }}</p>
      <details class="small">
        <summary>{{ profile ? 'another lens' : 'choose the lens' }}</summary>
        <v-text-field
          v-model="words"
          label="Words of its name"
          density="compact"
          hide-details
          maxlength="80"
          class="words"
        />
        <ul class="names" aria-label="Lens profiles">
          <li v-for="name in lenses?.names ?? []" :key="name">
            <button :aria-pressed="name === profile" @click="set({ profile: name }, true)">{{ name }}</button>
          </li>
        </ul>
        <p v-if="lenses && !lenses.names.length" class="quiet">No profile has these words in its name.</p>
        <button v-if="step.profile" class="quiet link" @click="set({ profile: '' }, true)">
          {{ lenses?.found ? `back to ${lenses.found}` : 'none' }}
        </button>
      </details>
    </template>
    <ChoiceRow
      v-if="raw?.mosaic"
      label="Interpolation of the mosaic"
      :choices="qualities"
      :chosen="step.quality"
      @choose="(quality) => set({ quality }, true)"
    />
  </div>
</template>

<style scoped>
.head {
  display: flex;
  justify-content: space-between;
  align-items: center;
}
.check {
  display: flex;
  gap: 6px;
}
.words {
  margin: 6px 0;
}
.names {
  max-height: 140px;
  overflow-y: auto;
  list-style: none;
  padding: 0;
}
.names button {
  padding: 2px 4px;
  text-align: left;
}
.names button[aria-pressed='true'] {
  color: rgb(var(--v-theme-primary));
}
</style>
