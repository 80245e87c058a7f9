<script setup lang="ts">
import { kindOf, type StepOf } from './kinds'
import { mdiSelectionDrag, mdiVectorLine } from '@mdi/js'
import { computed } from 'vue'

import type { Schemas } from '../api/client'
import ChoiceRow from '../parts/ChoiceRow.vue'
import EngineChoice from './EngineChoice.vue'
import PassesChoice from './PassesChoice.vue'
import StrengthSlider from '../parts/StrengthSlider.vue'
import { useDrawing, type Drawing } from './useDrawing'
import { blurKinds, blurOf, blurText, type Blur, type Deblur } from './blur'

const props = defineProps<{ step: Deblur; index: number; picture: Schemas['PictureOut'] }>()
const emit = defineEmits<{ change: [step: Deblur, now?: boolean] }>()
const set = (changed: Partial<Deblur>, now?: boolean) => emit('change', { ...props.step, ...changed }, now)
const setBlur = (blur: Blur, now?: boolean) => set({ blur }, now)

const { drawing, reading } = useDrawing()
const drawn = (what: Drawing['what']) => drawing.value?.step === props.index && drawing.value.what === what
function draw(what: Drawing['what']) {
  drawing.value = drawn(what) ? null : { step: props.index, what }
}

/** The blur as it was read from the picture; null where none was found. */
const found = computed<Blur | null>(() => {
  const blur = props.picture.reading?.blur
  const tenth = (value: number) => Math.round(value * 10) / 10
  switch (blur?.kind) {
    case 'focus':
      return { by: 'focus', radius: Math.min(10, tenth(blur.size_px)) }
    case 'motion':
      return {
        by: 'motion',
        length: Math.min(30, tenth(blur.size_px)),
        angle: Math.round(blur.angle_deg > 90 ? blur.angle_deg - 180 : blur.angle_deg),
      }
    case 'soft':
      return { by: 'soft', sigma: Math.min(5, Math.round(blur.size_px * 100) / 100) }
    default:
      return null
  }
})
const usual = kindOf('deblur').begun as StepOf<'deblur'>
</script>

<template>
  <div class="settings">
    <div class="found small">
      <span class="quiet">{{
        found
          ? `The reading found: ${blurText(found)}`
          : picture.reading
            ? 'The reading found no blur.'
            : 'The picture has not been read yet.'
      }}</span>
      <v-btn
        v-if="found"
        size="small"
        title="Kind and size as they were read; move the size from there"
        @click="setBlur(found, true)"
        >Use</v-btn
      >
    </div>
    <div class="draw">
      <v-btn
        size="small"
        :prepend-icon="mdiVectorLine"
        :active="drawn('line')"
        title="Draw along a point of light that became a stroke: kind, length and angle are taken from the line"
        @click="draw('line')"
        >Draw movement</v-btn
      >
      <v-btn
        size="small"
        :prepend-icon="mdiSelectionDrag"
        :active="drawn('area')"
        :loading="reading"
        title="Mark a part of the picture, and kind and size are read from it"
        @click="draw('area')"
        >Read an area</v-btn
      >
    </div>
    <ChoiceRow
      label="Kind of blur"
      :choices="blurKinds"
      :chosen="step.blur?.by"
      @choose="(kind) => step.blur?.by === kind || setBlur(blurOf(kind), true)"
    />
    <template v-if="step.blur?.by === 'motion'">
      <StrengthSlider
        label="Length"
        unit="px"
        :value="step.blur.length"
        :max="30"
        :step="0.5"
        :digits="1"
        hint="How far a point of light was drawn out"
        @change="(length, now) => setBlur({ ...(step.blur as Blur & { by: 'motion' }), length }, now)"
      />
      <StrengthSlider
        label="Angle"
        unit="°"
        :value="step.blur.angle"
        :min="-90"
        :max="90"
        hint="Counter-clockwise from level"
        @change="(angle, now) => setBlur({ ...(step.blur as Blur & { by: 'motion' }), angle }, now)"
      />
    </template>
    <StrengthSlider
      v-else-if="step.blur?.by === 'soft'"
      label="Softness"
      unit="px"
      :value="step.blur.sigma"
      :max="5"
      :step="0.05"
      :digits="2"
      hint="Raise it until edges ring, then go back a little"
      @change="(sigma, now) => setBlur({ by: 'soft', sigma }, now)"
    />
    <StrengthSlider
      v-else
      label="Radius"
      unit="px"
      :value="step.blur?.radius"
      :max="10"
      :step="0.1"
      :digits="1"
      hint="Raise it until edges ring, then go back a little"
      @change="(radius, now) => setBlur({ by: 'focus', radius }, now)"
    />
    <StrengthSlider
      label="Strength"
      :value="step.strength"
      :usual="usual.strength"
      @change="(strength, now) => set({ strength }, now)"
    />
    <StrengthSlider
      label="Keep what is sharp"
      :value="step.keep_sharp"
      :usual="usual.keep_sharp"
      hint="What has sharp edges already, in focus or standing still, is left as it is"
      @change="(keep_sharp, now) => set({ keep_sharp }, now)"
    />
    <PassesChoice :passes="step.passes" @change="(passes) => set({ passes }, true)" />
    <EngineChoice kind="deblur" :chosen="step.engine" @choose="(engine) => set({ engine }, true)" />
  </div>
</template>

<style scoped>
.draw {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
.found {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 8px;
}
</style>
