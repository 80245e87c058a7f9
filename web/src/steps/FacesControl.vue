<script setup lang="ts">
import { mdiChevronDown, mdiChevronUp, mdiClose, mdiPinOutline } from '@mdi/js'
import { computed, ref } from 'vue'

import type { Schemas } from '../api/client'
import { useEnginesOf } from '../engines/useEngines'
import ChoiceRow from '../parts/ChoiceRow.vue'
import StrengthSlider from '../parts/StrengthSlider.vue'
import { useKeys } from '../parts/useKeys'
import type { Take } from '../takes/useTake'
import EngineChoice from './EngineChoice.vue'
import FaceReference from './FaceReference.vue'
import { cutOf, leastWidth, widthOf, without, type Faces, type OneFace } from './faces'
import { kindOf } from './kinds'
import { newStep } from './registry'
import TrialCell from './TrialCell.vue'
import { departureText, useDepartures } from './useDepartures'
import { useDrawing } from './useDrawing'

const props = defineProps<{ step: Faces; index: number; take: Take; picture: Schemas['PictureOut'] }>()
const emit = defineEmits<{ change: [step: Faces, now?: boolean]; look: [face: OneFace]; pin: [faces: OneFace[]] }>()
const set = (changed: Partial<Faces>, now?: boolean) => emit('change', { ...props.step, ...changed }, now)

const usual = kindOf('faces').begun as Faces
const faces = computed(() => props.step.faces ?? [])
const before = computed(() => without(props.take.steps, props.index))
const opened = ref<number | null>(null)
const departure = useDepartures(
  () => props.take,
  () => props.step,
  () => props.index,
)

function setFace(place: number, changed: Partial<OneFace>, now?: boolean) {
  set({ faces: faces.value.with(place, { ...faces.value[place]!, ...changed }) }, now)
}
function remove(place: number) {
  opened.value = null
  set({ faces: faces.value.toSpliced(place, 1) }, true)
}

/** Those that the reading found, in the place of those there are. */
const found = computed(() => props.picture.reading?.faces ?? null)
function useFound() {
  opened.value = null
  set({ faces: (newStep('faces', { faces: found.value }) as Faces).faces }, true)
}

/** Whether there is another engine than the two whose mix the liveliness is. */
const engines = useEnginesOf('faces')
/** The second method is there once an engine for it is on the shelf. */
const offered = computed(() =>
  shares.filter(({ name }) => name !== 'liveliness' || engines.value.some(({ id }) => id === props.step.lively)),
)
const brought = computed(
  () =>
    props.step.engine !== usual.engine || engines.value.some(({ id }) => id !== usual.engine && id !== usual.lively),
)

const { drawing } = useDrawing()
const drawn = computed(() => drawing.value?.step === props.index)
const draw = () => (drawing.value = drawn.value ? null : { step: props.index, what: 'face' })

/** Open the face after the one that is open, and look at it. */
function next() {
  if (!faces.value.length) return
  opened.value = ((opened.value ?? -1) + 1) % faces.value.length
  emit('look', faces.value[opened.value]!)
}
/** More or less of the open face, or of all. */
const more = (by: number) => () => {
  const held = (value: number) => Math.max(0, Math.min(100, value + by))
  const face = opened.value === null ? null : faces.value[opened.value]
  if (face) setFace(opened.value!, { strength: held(face.strength ?? props.step.strength) }, true)
  else set({ strength: held(props.step.strength) }, true)
}
useKeys(() => [
  { key: 'shift+f', shown: 'Shift F', does: 'next face of the open step', group: 'steps', run: next },
  { key: 'ctrl+arrowup', shown: 'Ctrl ↑ ↓', does: 'more or less of that face', group: 'steps', run: more(5) },
  { key: 'ctrl+arrowdown', shown: 'Ctrl ↑ ↓', does: 'more or less of that face', group: 'steps', run: more(-5) },
])

/** What is set for all faces, or for one of them. */
const shares = [
  {
    name: 'strength',
    title: 'Strength',
    own: 'Its strength',
    what: 'A third is usually right; all of it looks like porcelain',
  },
  {
    name: 'freedom',
    title: 'Freedom',
    own: 'Its freedom',
    what: 'How far a face may depart from the source; at 0, made small again, it equals it',
  },
  {
    name: 'liveliness',
    title: 'Liveliness',
    own: 'Its liveliness',
    what: 'From least error to the detail that the face may have had; about half is usually right',
  },
  {
    name: 'gaze',
    title: 'Same gaze',
    own: 'Its gaze',
    what: 'Both eyes look the same way: irises are moved within their lids',
  },
] as const
/** What a face has set for itself and not as for all. */
const alone = { strength: null, freedom: null, liveliness: null, gaze: null, part: null, size: null }
const ownIn = (face: OneFace) => (Object.keys(alone) as (keyof typeof alone)[]).some((name) => face[name] != null)
const sizes = { min: 64, max: 512, step: 16 }

const expressions = [
  { name: 'smile', title: 'Smile', what: 'Corners of the mouth up, or down; gently' },
  { name: 'brows', title: 'Brows', what: 'Up, or down' },
  { name: 'lids', title: 'Lids', what: 'Eyes more open, or less' },
] as const
const parts = [
  { value: 'skin', title: 'Skin', what: 'The face alone; hair that falls into it stays' },
  { value: 'hair', title: 'With hair', what: 'Hair and beard, too' },
  { value: 'neck', title: 'With neck', what: 'Neck and collar, too' },
] as const
</script>

<template>
  <div class="settings">
    <p v-if="!faces.length" class="quiet small" role="status">
      {{
        picture.reading
          ? 'No face was found in this picture. Draw a box around one, from brow to chin.'
          : 'The picture is being read; the faces it finds can be taken then. Or draw a box around one.'
      }}
    </p>
    <div class="tools">
      <v-btn
        v-if="found?.length"
        size="small"
        title="The faces that the reading found, in the place of these"
        @click="useFound"
        >Take the {{ found.length }} found</v-btn
      >
      <v-btn size="small" :active="drawn" title="Draw a box around a face, from brow to chin" @click="draw"
        >Draw a face</v-btn
      >
      <v-btn
        v-if="faces.length"
        size="x-small"
        :icon="mdiPinOutline"
        aria-label="Pin every face"
        title="Pin every face: the check board shows each of them for all takes"
        @click="emit('pin', faces)"
      />
    </div>
    <StrengthSlider
      v-for="share in offered"
      :key="share.name"
      :label="share.title"
      :value="step[share.name] ?? 0"
      :usual="usual[share.name] ?? 0"
      :hint="share.what"
      @change="(value, now) => set({ [share.name]: value }, now)"
    />
    <ol v-if="faces.length" class="faces" aria-label="Faces">
      <li v-for="(face, place) in faces" :key="`${place}-${face.eyes}`" :class="{ off: !face.on }">
        <div class="row">
          <input
            type="checkbox"
            :checked="face.on"
            :aria-label="`Restore face ${place + 1}`"
            @change="setFace(place, { on: ($event.target as HTMLInputElement).checked }, true)"
          />
          <button
            class="look"
            :title="`Face ${place + 1}: as it comes in, and restored. Click to look at it`"
            :aria-label="`Look at face ${place + 1}`"
            @click="emit('look', face)"
          >
            <TrialCell
              v-for="one in [
                { steps: before, label: `Face ${place + 1} as it comes in` },
                { steps: take.steps, label: `Face ${place + 1} restored` },
              ]"
              :key="one.label"
              class="pair"
              :take="take"
              :steps="one.steps"
              :label="one.label"
              :width="64"
              :height="64"
              :cut="() => take.plan && cutOf(faces[place]!, take.plan)"
            />
          </button>
          <span class="small told">
            <b>{{ place + 1 }}</b>
            <span class="quiet" :class="{ warn: widthOf(face) < leastWidth }">{{ widthOf(face) }} px</span>
            <span v-if="face.strength !== null" class="quiet">at {{ Math.round(face.strength ?? 0) }}</span>
            <span
              v-if="face.on && departure(place) !== null"
              class="quiet"
              title="How far it is from the source once it is as small again: on average, of 255. Freedom decides on it"
              :aria-label="`Face ${place + 1} departs from the source`"
              >{{ departureText(departure(place)!) }}</span
            >
          </span>
          <v-btn
            :icon="opened === place ? mdiChevronUp : mdiChevronDown"
            size="x-small"
            :aria-expanded="opened === place"
            :aria-label="`Settings of face ${place + 1}`"
            title="Settings of its own"
            @click="opened = opened === place ? null : place"
          />
        </div>
        <div v-if="opened === place" class="own">
          <p v-if="widthOf(face) < leastWidth" class="small warn" role="note">
            Fewer than {{ leastWidth }} px wide: hardly anything of the person is there to be restored. Keep it low.
          </p>
          <StrengthSlider
            v-for="share in offered"
            :key="share.name"
            :label="share.own"
            :value="face[share.name] ?? step[share.name] ?? 0"
            :usual="step[share.name] ?? 0"
            :hint="share.what"
            @change="(value, now) => setFace(place, { [share.name]: value }, now)"
          />
          <StrengthSlider
            label="Its working size"
            unit="px"
            :value="face.size ?? step.size"
            :usual="step.size"
            v-bind="sizes"
            @change="(size, now) => setFace(place, { size: Math.round(size) }, now)"
          />
          <ChoiceRow
            label="Blend in"
            :choices="[...parts]"
            :chosen="face.part ?? step.part"
            @choose="(part) => setFace(place, { part: part as OneFace['part'] }, true)"
          />
          <FaceReference
            :face="face"
            :number="place + 1"
            :picture="picture"
            @change="(reference, now) => setFace(place, { reference }, now)"
          />
          <StrengthSlider
            v-for="one in expressions"
            :key="one.name"
            :label="one.title"
            :value="face[one.name] ?? 0"
            :usual="0"
            :min="-100"
            :hint="one.what"
            @change="(value, now) => setFace(place, { [one.name]: value }, now)"
          />
          <div class="tools">
            <v-btn size="small" :disabled="!ownIn(face)" @click="setFace(place, alone, true)">As for all</v-btn>
            <v-btn size="small" :prepend-icon="mdiClose" @click="remove(place)">Take off</v-btn>
          </div>
        </div>
      </li>
    </ol>
    <ChoiceRow
      label="Blend in"
      :choices="[...parts]"
      :chosen="step.part"
      @choose="(part) => set({ part: part as Faces['part'] }, true)"
    />
    <StrengthSlider
      label="Grain given back"
      :value="step.grain"
      :usual="usual.grain"
      hint="So that the face does not stand out from what is around it"
      @change="(grain, now) => set({ grain }, now)"
    />
    <StrengthSlider
      label="Working size"
      unit="px"
      :value="step.size"
      :usual="usual.size"
      v-bind="sizes"
      hint="The side of the square a face is restored in; larger shows more"
      @change="(size, now) => set({ size: Math.round(size) }, now)"
    />
    <EngineChoice
      v-if="brought"
      kind="faces"
      :chosen="step.engine"
      @choose="(engine: string) => set({ engine }, true)"
    />
  </div>
</template>

<style scoped>
.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 2px;
}
.tools .v-btn {
  min-width: 0;
  padding: 0 5px;
}
.faces {
  list-style: none;
  padding: 0;
}
.faces li {
  padding: 4px 0;
  border-top: 1px solid rgba(var(--v-theme-on-surface), 0.12);
}
.row {
  display: flex;
  align-items: center;
  gap: 8px;
}
.look {
  display: flex;
  gap: 2px;
}
.pair {
  width: 64px;
}
.off .look {
  opacity: 0.5;
}
.told {
  display: grid;
  flex: 1;
}
.warn {
  color: rgb(var(--v-theme-warning));
}
.own {
  display: grid;
  gap: 8px;
  padding: 6px 0 4px;
}
</style>
