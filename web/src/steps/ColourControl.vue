<script setup lang="ts">
import { mdiClose, mdiEyedropper, mdiPlus } from '@mdi/js'
import { computed, ref } from 'vue'

import FoldSection from '../parts/FoldSection.vue'
import FromPicture from './FromPicture.vue'
import { anchorAt, anchorText, patch, type Colour, type HueAnchor } from './hues'
import { kindOf } from './kinds'
import SliderList from './SliderList.vue'
import TintDisc from './TintDisc.vue'
import { useDrawing } from './useDrawing'

const props = defineProps<{ step: Colour; index: number }>()
const emit = defineEmits<{ change: [step: Colour, now?: boolean]; start: [] }>()
const set = (changed: Partial<Colour>, now?: boolean) => emit('change', { ...props.step, ...changed }, now)
const usual = kindOf('colour').begun as Colour
const back = (...names: (keyof Colour)[]) =>
  set(Object.fromEntries(names.map((name) => [name, usual[name]])) as Partial<Colour>, true)
const differs = (...names: (keyof Colour)[]) =>
  names.some((name) => JSON.stringify(props.step[name]) !== JSON.stringify(usual[name]))

const balance = [
  { name: 'temperature', title: 'Temperature', step: 0.5, digits: 1, what: 'Above 0 warmer, below 0 cooler' },
  { name: 'tint', title: 'Tint', step: 0.5, digits: 1, what: 'Above 0 towards magenta, below 0 towards green' },
] as const
const purity = [
  { name: 'saturation', title: 'Saturation', what: 'All colours purer, or duller; as light as before' },
  { name: 'vibrance', title: 'Vibrance', what: 'Dull colours more than pure ones' },
] as const
const ofHue = [
  { name: 'hue', title: 'Hue', unit: '°', min: 0, max: 359, what: 'Which colours it is about' },
  { name: 'reach', title: 'Reach', unit: '°', min: 10, max: 180, what: 'How far to either side, less and less' },
  { name: 'turn', title: 'Turn', unit: '°', min: -90, max: 90, what: 'Turns these colours into their neighbours' },
  { name: 'saturation', title: 'Saturation', what: 'These colours purer, or duller' },
  { name: 'lightness', title: 'Lightness', what: 'These colours lighter, or darker' },
] as const

const hues = computed(() => props.step.hues ?? [])
const opened = ref<number | null>(null)
function setHue(place: number, changed: Partial<HueAnchor>, now?: boolean) {
  set({ hues: hues.value.with(place, { ...hues.value[place]!, ...changed }) }, now)
}
function add() {
  // As far as can be from those there are.
  const free = Array.from({ length: 36 }, (_, at) => at * 10 + 5).map((hue) => ({
    hue,
    room: Math.min(360, ...hues.value.map((one) => Math.abs(((one.hue - hue + 540) % 360) - 180))),
  }))
  const widest = free.reduce((best, one) => (one.room > best.room ? one : best))
  opened.value = hues.value.length
  set({ hues: [...hues.value, anchorAt(hues.value.length ? widest.hue : 30)] }, true)
}
function remove(place: number) {
  opened.value = null
  set({ hues: hues.value.toSpliced(place, 1) }, true)
}
const { drawing } = useDrawing()
const picking = computed(() => drawing.value?.step === props.index && drawing.value.what === 'hue')
const pick = () => (drawing.value = picking.value ? null : { step: props.index, what: 'hue' })
</script>

<template>
  <div class="settings">
    <FoldSection
      name="colour balance"
      title="White balance"
      begins
      :changed="differs('temperature', 'tint')"
      @reset="back('temperature', 'tint')"
    >
      <FromPicture kind="colour" :index="index" @start="emit('start')" />
      <SliderList :sliders="balance" :settings="step" :usual="usual" marks @change="set" />
    </FoldSection>
    <FoldSection
      name="colour purity"
      title="Purity"
      begins
      :changed="differs('saturation', 'vibrance')"
      @reset="back('saturation', 'vibrance')"
    >
      <SliderList :sliders="purity" :settings="step" :usual="usual" marks @change="set" />
    </FoldSection>
    <FoldSection name="colour hues" title="Single hues" :changed="hues.length > 0" @reset="back('hues')">
      <ul v-if="hues.length" class="hues" aria-label="Hues">
        <li v-for="(one, place) in hues" :key="place">
          <div class="row">
            <button
              class="name"
              :aria-expanded="opened === place"
              :aria-label="`Hue ${Math.round(one.hue)}°`"
              @click="opened = opened === place ? null : place"
            >
              <span
                class="patch"
                :style="{
                  background: `linear-gradient(90deg, ${patch(one.hue)} 50%, ${patch(one.hue + (one.turn ?? 0))} 50%)`,
                }"
              />
              <span class="small quiet">{{ anchorText(one) }}</span>
            </button>
            <v-btn
              :icon="mdiClose"
              size="x-small"
              :aria-label="`Remove hue ${Math.round(one.hue)}°`"
              @click="remove(place)"
            />
          </div>
          <SliderList
            v-if="opened === place"
            :sliders="ofHue"
            :settings="one"
            :usual="anchorAt(one.hue)"
            @change="(changed, now) => setHue(place, changed, now)"
          />
        </li>
      </ul>
      <p v-else class="small quiet">Pick a colour in the picture, and turn, fade or lighten those like it.</p>
      <div class="tools">
        <v-btn
          size="small"
          :prepend-icon="mdiEyedropper"
          :active="picking"
          :disabled="hues.length >= 8"
          title="Click a colour in the picture"
          @click="pick"
          >Pick a colour</v-btn
        >
        <v-btn
          :icon="mdiPlus"
          size="x-small"
          :disabled="hues.length >= 8"
          aria-label="Add a hue"
          title="Add a hue"
          @click="add"
        />
      </div>
    </FoldSection>
    <FoldSection
      name="colour tints"
      title="Tinted tones"
      :changed="differs('shadows', 'middle', 'lights')"
      @reset="back('shadows', 'middle', 'lights')"
    >
      <TintDisc :step="step" @change="set" />
    </FoldSection>
  </div>
</template>

<style scoped>
.hues {
  list-style: none;
  padding: 0;
}
.row {
  display: flex;
  align-items: center;
}
.name {
  flex: 1;
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 3px 0;
  text-align: left;
  cursor: pointer;
}
.patch {
  flex: none;
  width: 34px;
  height: 18px;
  border-radius: 3px;
}
.tools {
  display: flex;
  gap: 4px;
}
</style>
