<script setup lang="ts">
import { mdiBrush, mdiEyedropper, mdiSelectDrag, mdiUndoVariant } from '@mdi/js'
import { computed } from 'vue'

import type { Schemas } from '../api/client'
import ChoiceRow from '../parts/ChoiceRow.vue'
import FoldSection from '../parts/FoldSection.vue'
import StrengthSlider from '../parts/StrengthSlider.vue'
import BrushSliders from './BrushSliders.vue'
import { hinted, shade, sure, type Part, type PartOf } from './parts'
import { useBrush } from './useBrush'

/** The settings of one part of a mask. */
const props = defineProps<{
  part: Part
  active: boolean
  picture: Schemas['PictureOut']
  picking: boolean
  /** How far the search for it is, 0..1; null while nothing is looked for. */
  finding: number | null
}>()
const emit = defineEmits<{
  change: [changed: Partial<Part>, now?: boolean]
  pick: []
  find: []
  again: [changed: Partial<PartOf<'found'>>, quiet?: number]
  hints: []
}>()
const { brush } = useBrush()

const is = <By extends Part['by']>(by: By) => (props.part.by === by ? (props.part as PartOf<By>) : null)
const strokes = computed(() => is('brush'))
const radial = computed(() => is('radial'))
const tones = computed(() => is('tones'))
const colours = computed(() => is('colours'))
const faces = computed(() => is('faces'))
const found = computed(() => is('found'))
const boxed = computed(() => hinted(props.part))
const hints = computed(() => found.value?.hints ?? [])

/** Whether what was found may end in single hairs. */
const haired = computed(() => ['subject', 'background', 'people'].includes(found.value?.what ?? ''))

const brushWays: { value: 'add' | 'erase'; title: string; what: string }[] = [
  { value: 'add', title: 'Paint', what: 'Add to the mask' },
  { value: 'erase', title: 'Take away', what: 'Take away from the mask (Shift while painting)' },
]
const hintWays: { value: 'add' | 'erase'; title: string; what: string }[] = [
  { value: 'add', title: 'This is it', what: 'A few strokes over what is meant' },
  { value: 'erase', title: 'This is not', what: 'Strokes over what is left out (Shift while painting)' },
]
const toneSliders = [
  { name: 'low', title: 'From', what: 'Darkest tone that is whole' },
  { name: 'high', title: 'To', what: 'Lightest tone that is whole' },
  { name: 'below', title: 'Fades below', what: 'How far it fades towards darker tones' },
  { name: 'above', title: 'Fades above', what: 'How far it fades towards lighter tones' },
] as const
/** The two ends do not cross. */
function setTone(name: (typeof toneSliders)[number]['name'], percent: number, now?: boolean) {
  const value = percent / 100
  const { low, high } = tones.value!
  const ends = name === 'low' ? { high: Math.max(high, value) } : name === 'high' ? { low: Math.min(low, value) } : {}
  emit('change', { ...ends, [name]: value } as Partial<Part>, now)
}
const sureFaces = computed(() => sure(props.picture.reading?.faces ?? []))
const shaped = computed(() => Boolean(props.part.feather || props.part.refine || props.part.inverted))
</script>

<template>
  <div class="part">
    <template v-if="strokes">
      <template v-if="active">
        <ChoiceRow
          label="Brush"
          :choices="brushWays"
          :chosen="brush.erase ? 'erase' : 'add'"
          @choose="brush.erase = $event === 'erase'"
        />
        <BrushSliders />
        <StrengthSlider label="Strength" :value="brush.strength" :min="1" @change="brush.strength = $event" />
        <label class="small edges"><input v-model="brush.edges" type="checkbox" /> stay within edges</label>
      </template>
      <v-btn
        size="small"
        :prepend-icon="mdiUndoVariant"
        aria-label="Take the last stroke back"
        title="Take the last stroke back"
        :disabled="!strokes.strokes.length"
        @click="emit('change', { strokes: strokes.strokes.slice(0, -1) }, true)"
        >Last stroke back</v-btn
      >
    </template>
    <p v-if="part.by === 'linear' || radial" class="small quiet">Pull its handles in the picture.</p>
    <StrengthSlider
      v-if="radial"
      label="Softness"
      :value="radial.softness"
      :usual="60"
      hint="How far it fades from its rim inwards"
      @change="(softness, now) => emit('change', { softness }, now)"
    />
    <template v-if="tones">
      <StrengthSlider
        v-for="one in toneSliders"
        :key="one.name"
        :label="one.title"
        unit="%"
        :value="100 * tones[one.name]"
        :hint="one.what"
        @change="(value, now) => setTone(one.name, value, now)"
      />
    </template>
    <template v-if="colours">
      <div class="tools">
        <button
          v-for="(colour, place) in colours.colours"
          :key="place"
          class="shade"
          :style="{ background: shade(colour) }"
          :aria-label="`Picked colour ${place + 1}, take it off`"
          title="Take it off"
          @click="emit('change', { colours: colours.colours.toSpliced(place, 1) }, true)"
        />
        <v-btn
          size="small"
          :prepend-icon="mdiEyedropper"
          :active="picking"
          :disabled="colours.colours.length >= 12"
          title="Click colours in the picture"
          @click="emit('pick')"
          >Pick</v-btn
        >
      </div>
      <StrengthSlider
        label="Tolerance"
        :value="colours.tolerance"
        :usual="25"
        :min="1"
        hint="How unlike the picked ones colours may be"
        @change="(tolerance, now) => emit('change', { tolerance }, now)"
      />
      <StrengthSlider
        label="Softness"
        :value="colours.softness"
        :usual="60"
        @change="(softness, now) => emit('change', { softness }, now)"
      />
    </template>
    <template v-if="faces">
      <v-btn size="small" :disabled="!sureFaces.length" @click="emit('change', { faces: sureFaces }, true)">
        {{ sureFaces.length ? `Take the ${sureFaces.length} found` : 'No face was found' }}
      </v-btn>
    </template>
    <div v-if="found" class="tools">
      <v-progress-circular
        v-if="finding !== null"
        :model-value="Math.max(4, 100 * finding)"
        size="18"
        width="3"
        aria-label="Looking for it"
        :title="`${Math.round(100 * finding)} %`"
      />
      <v-btn size="small" title="Look for it in the whole picture" @click="emit('find')">{{
        finding !== null ? 'Stop' : found.plane ? 'Find again' : 'Find'
      }}</v-btn>
      <v-btn
        v-if="boxed"
        size="small"
        :prepend-icon="mdiSelectDrag"
        :active="picking"
        title="Draw a box around it"
        @click="emit('pick')"
        >{{ found.box ? 'Another box' : 'Box' }}</v-btn
      >
      <button
        v-if="found.box"
        class="small quiet link"
        @click="emit('change', { box: null, plane: '' } as Partial<Part>, true)"
      >
        no box
      </button>
      <v-btn
        v-if="boxed"
        size="small"
        :prepend-icon="mdiBrush"
        :active="active"
        title="Paint a few strokes over it, and over what is not part of it"
        @click="emit('hints')"
        >Strokes</v-btn
      >
      <button v-if="hints.length" class="small quiet link" @click="emit('again', { hints: [] })">no strokes</button>
    </div>
    <template v-if="boxed && active">
      <ChoiceRow
        label="Strokes say"
        :choices="hintWays"
        :chosen="brush.erase ? 'erase' : 'add'"
        @choose="brush.erase = $event === 'erase'"
      />
      <v-btn
        size="small"
        :prepend-icon="mdiUndoVariant"
        :disabled="!hints.length"
        title="Take the last stroke back"
        @click="emit('again', { hints: hints.slice(0, -1) })"
        >Last stroke back</v-btn
      >
    </template>
    <StrengthSlider
      v-if="found && haired"
      label="Hair"
      unit="%"
      :value="found.hair ?? 0"
      :usual="0"
      :max="10"
      :step="0.5"
      :digits="1"
      hint="How far from its outline single hairs are told apart, of the picture's long side; looked for anew"
      @change="(hair) => emit('again', { hair }, 400)"
    />
    <StrengthSlider
      label="How much of it"
      :value="part.strength"
      :usual="100"
      @change="(strength, now) => emit('change', { strength }, now)"
    />
    <FoldSection
      name="mask part rim"
      title="Rim and name"
      :changed="shaped"
      @reset="emit('change', { feather: 0, refine: 0, inverted: false }, true)"
    >
      <label class="small edges">
        <input
          type="checkbox"
          :checked="part.inverted"
          @change="emit('change', { inverted: ($event.target as HTMLInputElement).checked }, true)"
        />
        all but this
      </label>
      <StrengthSlider
        label="Feather"
        unit="px"
        :value="part.feather"
        :usual="0"
        :max="60"
        :digits="1"
        hint="Softens it; in pixels of the source"
        @change="(feather, now) => emit('change', { feather }, now)"
      />
      <StrengthSlider
        label="Follow edges"
        unit="px"
        :value="part.refine"
        :usual="0"
        :max="40"
        hint="How far its rim looks for edges of the picture"
        @change="(refine, now) => emit('change', { refine }, now)"
      />
      <v-text-field
        :model-value="part.name"
        label="Name"
        density="compact"
        hide-details
        maxlength="40"
        @change="emit('change', { name: ($event.target as HTMLInputElement).value.trim() }, true)"
      />
    </FoldSection>
  </div>
</template>

<style scoped>
.part {
  display: grid;
  gap: 8px;
  padding: 6px 0 8px;
}
.tools {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px;
}
.tools .v-btn,
.part > .v-btn {
  min-width: 0;
  padding: 0 6px;
  justify-self: start;
}
.shade {
  width: 22px;
  height: 22px;
  border: 1px solid rgba(255, 255, 255, 0.6);
  border-radius: 3px;
  cursor: pointer;
}
.edges {
  display: flex;
  align-items: center;
  gap: 8px;
  cursor: pointer;
}
.edges input {
  accent-color: rgb(var(--v-theme-primary));
}
.link {
  text-decoration: underline;
  cursor: pointer;
}
</style>
