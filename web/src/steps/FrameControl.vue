<script setup lang="ts">
import { mdiCropFree, mdiFlipHorizontal, mdiRotateLeft, mdiRotateRight } from '@mdi/js'
import { useMutation } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'

import { answer, server, type Schemas } from '../api/client'
import { orderMet } from '../jobs/order'
import { number } from '../parts/format'
import { useNotice } from '../parts/useNotice'
import ChoiceRow from '../parts/ChoiceRow.vue'
import FoldSection from '../parts/FoldSection.vue'
import { flipped, ratios, shaped, turned, useCropRatio, type Crop, type Frame } from './frame'
import { useGuides } from './guides'
import { kindOf } from './kinds'
import SliderList from './SliderList.vue'

const props = defineProps<{
  step: Frame
  take: Schemas['TakeOut']
  picture: Schemas['PictureOut']
  job?: Schemas['JobOut']
}>()
const emit = defineEmits<{ change: [step: Frame, now?: boolean] }>()

const held = useCropRatio()
const canvas = computed(
  () => props.take.plan?.canvas ?? { width: props.picture.facts.width, height: props.picture.facts.height },
)
const usual = kindOf('frame').begun as Frame
const bending = ['distortion', 'vertical', 'horizontal', 'corners'] as const
/** Whether perspective or distortion is undone. */
const bent = computed(() => bending.some((name) => props.step[name]))
const sliders = [
  {
    name: 'distortion',
    title: 'Distortion',
    what: 'Above 0, lines that bow outwards are made straight; below 0, inwards',
  },
  {
    name: 'vertical',
    title: 'Upright lines',
    what: 'Below 0 for lines that lean together towards the top, above 0 towards the foot',
    step: 0.5,
    digits: 1,
  },
  {
    name: 'horizontal',
    title: 'Level lines',
    what: 'Below 0 for lines that run together to the left, above 0 to the right',
    step: 0.5,
    digits: 1,
  },
] as const
const beyond = [
  { value: 'crop', title: 'Crop', what: 'Only what the picture reaches' },
  { value: 'mirror', title: 'Mirror', what: 'The picture goes on, mirrored' },
  { value: 'white', title: 'White', what: 'White, or clear if the picture can be' },
] as const
const guides = useGuides()
function straightenedNoMore() {
  guides.lines = []
  const { distortion, vertical, horizontal, corners } = usual
  emit('change', { ...props.step, distortion, vertical, horizontal, corners }, true)
}
function draw(what: 'lines' | 'corners') {
  guides.drawing = guides.drawing === what ? null : what
}
watch(
  () => props.take.id,
  () => (guides.lines = []),
)
/** The crop as it was last given, at once; where straightening may have shrunk it, as the server has resolved it. */
const crop = computed(() => {
  if (props.step.crop && !props.step.angle && !bent.value) return props.step.crop
  return props.take.plan?.crop ?? { x: 0, y: 0, ...canvas.value }
})
const choices = computed(() => ratios(canvas.value, props.job?.order ?? null))

function choose(value: string) {
  held.ratio = choices.value.find((one) => one.value === value)?.ratio ?? null
  if (held.ratio) emit('change', { ...props.step, crop: shaped(crop.value, canvas.value, held.ratio) }, true)
}
const chosen = computed(() => choices.value.find((one) => one.ratio === held.ratio)?.value ?? 'free')

type Side = 'width' | 'height' | 'x' | 'y'
const sides: { name: Side; label: string }[] = [
  { name: 'width', label: 'Width px' },
  { name: 'height', label: 'Height px' },
  { name: 'x', label: 'Left px' },
  { name: 'y', label: 'Top px' },
]
const fields = ref<Record<Side, string>>({ width: '', height: '', x: '', y: '' })
/** The field being typed in, which an answer of the server must not overwrite. */
const typing = ref<Side | null>(null)
watch(
  crop,
  (now) => {
    for (const { name } of sides) if (typing.value !== name) fields.value[name] = String(now[name])
  },
  { immediate: true },
)

/** Crops that are suggested, for the shape that is held; forgotten when it changes. */
const suggested = ref<Schemas['CropOut'][] | null>(null)
const notice = useNotice()
const suggesting = useMutation({
  mutationFn: () =>
    answer(
      server.POST('/api/takes/{take_id}/crops', {
        params: { path: { take_id: props.take.id } },
        body: { ratio: held.ratio },
      }),
    ),
  onSuccess: (found) => (suggested.value = found),
  onError: (fault) => notice.fault(fault),
})
watch(
  [() => held.ratio, () => props.step.turns, () => props.step.flip, () => props.step.angle, () => props.take.id],
  () => (suggested.value = null),
)
/** As far as anything is enlarged. */
const mostFactor = 8
const same = (one: Crop) => JSON.stringify(one) === JSON.stringify(props.step.crop)
function factorFor(one: Crop): number | null {
  const order = props.job?.order
  return order ? (order.ppi ?? 300) / orderMet(order, one).ppi : null
}
/** The factor that the ordered print needs of a crop, in words. */
function needs(one: Crop): string {
  const factor = factorFor(one)
  if (!factor) return ''
  return ` · the order needs ×${number(factor, 1)}`
}

function typed(side: Side) {
  const { x, y, width, height } = crop.value
  const value = Math.round(Number(fields.value[side]))
  const wanted = { x, y, width, height, [side]: value }
  if (held.ratio && side === 'width') wanted.height = Math.round(value / held.ratio)
  if (held.ratio && side === 'height') wanted.width = Math.round(value * held.ratio)
  const usable = wanted.width >= 1 && wanted.height >= 1 && wanted.x >= 0 && wanted.y >= 0
  if (!usable) fields.value[side] = String(crop.value[side])
  else if (value !== crop.value[side]) emit('change', { ...props.step, crop: wanted }, true)
}

const angle = computed(() => props.step.angle)
/** The field is left: what was typed counts. */
function left(side: Side) {
  typing.value = null
  typed(side)
}
function reset() {
  held.ratio = null
  emit('change', { ...(kindOf('frame').begun as Frame), on: props.step.on }, true)
}

const typedAngle = ref('0')
watch(angle, (now) => (typedAngle.value = number(now, 2)), { immediate: true })
function setAngle(value: number, now = false) {
  if (Number.isFinite(value))
    emit('change', { ...props.step, angle: Math.max(-45, Math.min(45, Number(value.toFixed(2)))) }, now)
}
</script>

<template>
  <div class="settings">
    <v-select :model-value="chosen" label="Shape" :items="choices" @update:model-value="choose" />
    <div class="pair">
      <v-text-field
        v-for="side in sides"
        :key="side.name"
        v-model="fields[side.name]"
        :label="side.label"
        inputmode="numeric"
        @focus="typing = side.name"
        @keydown.enter="typed(side.name)"
        @blur="left(side.name)"
      />
    </div>
    <div class="suggested">
      <v-btn
        size="small"
        :prepend-icon="mdiCropFree"
        :loading="suggesting.isPending.value"
        title="Three crops of this shape, around faces, what stands out and pinned check spots"
        @click="suggesting.mutate()"
        >Suggest crops</v-btn
      >
      <ol v-if="suggested" class="small" aria-label="Suggested crops">
        <li v-for="one in suggested" :key="one.reason">
          <button
            :aria-pressed="same(one.crop)"
            :disabled="(factorFor(one.crop) ?? 0) > mostFactor"
            :title="
              (factorFor(one.crop) ?? 0) > mostFactor ? `Too small for the order: that is more than ×${mostFactor}` : ''
            "
            @click="emit('change', { ...step, crop: one.crop }, true)"
          >
            {{ one.reason }}
            <span class="quiet">{{ one.crop.width }} × {{ one.crop.height }} px{{ needs(one.crop) }}</span>
          </button>
        </li>
      </ol>
    </div>
    <div class="turns">
      <v-btn
        :icon="mdiRotateLeft"
        size="small"
        aria-label="Turn left"
        title="Turn left (Shift R)"
        @click="emit('change', turned(step, 3, canvas, crop), true)"
      />
      <v-btn
        :icon="mdiRotateRight"
        size="small"
        aria-label="Turn right"
        title="Turn right (R)"
        @click="emit('change', turned(step, 1, canvas, crop), true)"
      />
      <v-btn
        :icon="mdiFlipHorizontal"
        size="small"
        aria-label="Flip"
        title="Flip"
        :active="step.flip"
        @click="emit('change', flipped(step, canvas, crop), true)"
      />
      <v-spacer />
      <v-btn size="small" @click="reset">Reset</v-btn>
    </div>
    <div class="angle">
      <v-slider
        :model-value="angle"
        :min="-15"
        :max="15"
        :step="0.1"
        aria-label="Straighten"
        @update:model-value="setAngle($event)"
      />
      <v-text-field
        v-model="typedAngle"
        label="Straighten °"
        class="degrees"
        inputmode="decimal"
        min="-15"
        max="15"
        data-usual="0"
        @keydown.enter="setAngle(Number(typedAngle.replace(',', '.')), true)"
        @blur="setAngle(Number(typedAngle.replace(',', '.')), true)"
      />
    </div>
    <FoldSection name="frame bent" title="Perspective and distortion" :changed="bent" @reset="straightenedNoMore">
      <div class="drawn">
        <v-btn
          size="small"
          :active="guides.drawing === 'lines'"
          title="Draw along edges that should be upright or level"
          @click="draw('lines')"
          >Draw lines</v-btn
        >
        <v-btn
          size="small"
          :active="guides.drawing === 'corners'"
          title="Four corners that become a rectangle"
          @click="draw('corners')"
          >Four corners</v-btn
        >
      </div>
      <SliderList
        :sliders="sliders"
        :settings="step"
        :usual="usual"
        @change="(changed, now) => emit('change', { ...step, ...changed }, now)"
      />
    </FoldSection>
    <ChoiceRow
      v-if="bent || step.angle || step.outside !== 'crop'"
      label="Where the picture does not reach"
      :chosen="step.outside ?? 'crop'"
      :choices="[...beyond]"
      @choose="(outside) => emit('change', { ...step, outside: outside as Frame['outside'] }, true)"
    />
    <p class="small quiet">
      Draw on the picture; arrow keys move the crop by a pixel, with <kbd>Shift</kbd> by ten. <kbd>Esc</kbd> closes.
    </p>
  </div>
</template>

<style scoped>
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
}
.suggested ol {
  list-style: none;
  padding: 4px 0 0;
}
.suggested button[aria-pressed] {
  width: 100%;
  padding: 3px 6px;
  text-align: left;
  cursor: pointer;
}
.suggested button[aria-pressed='true'] {
  background: rgba(var(--v-theme-primary), 0.22);
}
.suggested button:disabled {
  opacity: 0.55;
  cursor: default;
}
.suggested button span {
  display: block;
}
.turns {
  display: flex;
  align-items: center;
}
.angle {
  display: grid;
  grid-template-columns: 1fr 104px;
  gap: 8px;
  align-items: center;
}
</style>
