<script setup lang="ts">
import ChoiceRow from './ChoiceRow.vue'
import EngineChoice from './EngineChoice.vue'
import StrengthSlider from './StrengthSlider.vue'
import { blurKinds, blurOf, type Blur, type Deblur } from './blur'

const props = defineProps<{ step: Deblur }>()
const emit = defineEmits<{ change: [step: Deblur, now?: boolean] }>()
const set = (changed: Partial<Deblur>, now?: boolean) => emit('change', { ...props.step, ...changed }, now)
const setBlur = (blur: Blur, now?: boolean) => set({ blur }, now)
</script>

<template>
  <div class="settings">
    <ChoiceRow label="Kind of blur" :choices="blurKinds" :chosen="step.blur?.by ?? 'focus'"
      @choose="(kind) => step.blur?.by === kind || setBlur(blurOf(kind), true)" />
    <template v-if="step.blur?.by === 'motion'">
      <StrengthSlider label="Length" unit="px" :value="step.blur.length ?? 8" :max="30" :step="0.5" :digits="1" hint="How far a point of light was drawn out"
        @change="(length, now) => setBlur({ ...(step.blur as Blur & { by: 'motion' }), length }, now)" />
      <StrengthSlider label="Angle" unit="°" :value="step.blur.angle ?? 0" :min="-90" :max="90" hint="Counter-clockwise from level"
        @change="(angle, now) => setBlur({ ...(step.blur as Blur & { by: 'motion' }), angle }, now)" />
    </template>
    <StrengthSlider v-else-if="step.blur?.by === 'soft'" label="Softness" unit="px" :value="step.blur.sigma ?? 1" :max="5" :step="0.05" :digits="2"
      hint="Raise it until edges ring, then go back a little" @change="(sigma, now) => setBlur({ by: 'soft', sigma }, now)" />
    <StrengthSlider v-else label="Radius" unit="px" :value="step.blur?.radius ?? 1.5" :max="10" :step="0.1" :digits="1"
      hint="Raise it until edges ring, then go back a little" @change="(radius, now) => setBlur({ by: 'focus', radius }, now)" />
    <StrengthSlider label="Strength" :value="step.strength ?? 100" @change="(strength, now) => set({ strength }, now)" />
    <EngineChoice kind="deblur" :chosen="step.engine ?? 'deblur'" @choose="(engine) => set({ engine }, true)" />
  </div>
</template>
