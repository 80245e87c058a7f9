<script setup lang="ts">
import { mdiBrush, mdiCrosshairs, mdiDeleteOutline, mdiMagnifyScan } from '@mdi/js'
import { computed } from 'vue'

import type { Schemas } from '../api/client'
import BrushSliders from '../masks/BrushSliders.vue'
import { useBrush } from '../masks/useBrush'
import ChoiceRow from '../parts/ChoiceRow.vue'
import StrengthSlider from '../parts/StrengthSlider.vue'
import FoundBlemishes from './FoundBlemishes.vue'
import type { StepOf } from './kinds'
import { elsewhere, madeBy, mostPatches, patching, wayTitles, type Patch, type Way } from './patches'
import { useDrawing } from './useDrawing'
import { useOtherTakes } from './useOtherTakes'

type PatchStep = StepOf<'patch'>
type Given = NonNullable<PatchStep['steps']>[number]

/** Places that are painted over, each of which can be changed, switched off and taken away. */
const props = defineProps<{
  step: PatchStep
  index: number
  take: Schemas['TakeOut']
  picture: Schemas['PictureOut']
}>()
const emit = defineEmits<{
  change: [step: PatchStep, now?: boolean]
  /** The brush is taken up or put down. */
  patch: []
  /** The other place of a patch is picked in the picture. */
  from: [patch: number]
  /** Look for dust, or stop looking. */
  find: []
}>()
const { painting } = useBrush()
const { drawing } = useDrawing()
const { others, stepsOf } = useOtherTakes(
  () => props.picture.id,
  () => props.take.id,
)

const patches = computed(() => props.step.patches ?? [])
const active = computed(() => painting.value === props.index)
const full = computed(() => patches.value.length >= mostPatches)
const ways: { value: Way; title: string; what: string }[] = [
  { value: 'mend', title: 'Mend', what: 'Texture from elsewhere, tone and light from around' },
  { value: 'clone', title: 'Clone', what: 'Just as it is elsewhere' },
  { value: 'fill', title: 'Fill', what: 'Made anew of small pieces of what lies around' },
  { value: 'take', title: 'Other take', what: 'As another take of this picture has it here' },
]
/** Whether a patch that is there, or the next one, comes from another take. */
const borrows = computed(() => patching.way === 'take' || patches.value.some((one) => one.way === 'take'))
const borrow = (name: string) => emit('change', { ...props.step, of: name, steps: stepsOf<Given>(name) }, true)
const set = (changed: Patch[], now = true) => emit('change', { ...props.step, patches: changed }, now)
const setOne = (place: number, changed: Partial<Patch>, now = true) =>
  set(patches.value.with(place, { ...patches.value[place]!, ...changed }), now)
function remove(place: number) {
  patching.chosen = null
  set(patches.value.toSpliced(place, 1))
}
const resize = (place: number, size: number, now = false) =>
  setOne(place, { stroke: { ...patches.value[place]!.stroke, size } }, now)
</script>

<template>
  <div class="settings">
    <div class="row">
      <v-btn
        size="small"
        :prepend-icon="mdiBrush"
        :active="active"
        :disabled="full"
        title="Paint over what should not be there"
        @click="emit('patch')"
        >{{ active ? 'Put the brush down' : 'Paint over' }}</v-btn
      >
      <v-btn
        v-if="patching.share === null"
        size="small"
        :prepend-icon="mdiMagnifyScan"
        :disabled="full || !step.on"
        title="Dust, hairs, scratches and creases are proposed; nothing is changed until you take them"
        @click="emit('find')"
        >Find dust</v-btn
      >
      <v-btn v-else size="small" aria-label="Stop looking" @click="emit('find')">
        <v-progress-circular
          :model-value="100 * patching.share"
          :indeterminate="!patching.share"
          size="16"
          width="2"
          class="mr-2"
        />
        {{ Math.round(100 * patching.share) }} % · Stop
      </v-btn>
    </div>
    <p v-if="full" class="small" role="status">A step holds {{ mostPatches }} patches; add another one.</p>
    <FoundBlemishes
      v-if="patching.found"
      :room="mostPatches - patches.length"
      @take="set([...patches, ...$event.map((one) => one.patch)])"
    />
    <ChoiceRow label="Way" :choices="ways" :chosen="patching.way" @choose="patching.way = $event" />
    <template v-if="borrows">
      <v-select
        v-if="others.length"
        label="Other take"
        :model-value="step.of || null"
        :items="others"
        hide-details
        @update:model-value="borrow"
      />
      <p v-else class="small quiet">There is no other take yet; make one, then take from it here.</p>
    </template>
    <v-checkbox
      v-model="patching.outline"
      label="what I go around belongs to it"
      density="compact"
      hide-details
      title="The brush draws an outline; what lies inside is patched as well"
    />
    <BrushSliders />
    <ol v-if="patches.length" class="patches" aria-label="Patches">
      <li v-for="(one, place) in patches" :key="place" :class="{ chosen: patching.chosen === place }">
        <input
          type="checkbox"
          :checked="one.on"
          :aria-label="`Patch ${place + 1} on`"
          @change="setOne(place, { on: !one.on })"
        />
        <button
          class="name"
          :aria-pressed="patching.chosen === place"
          title="Show it in the picture"
          @click="patching.chosen = patching.chosen === place ? null : place"
        >
          {{ place + 1 }}
          <span class="quiet small">{{ wayTitles[one.way ?? 'mend'] }}, {{ Math.round(one.stroke.size ?? 0) }} px</span>
        </button>
        <template v-if="patching.chosen === place">
          <v-btn
            v-if="elsewhere(one)"
            :icon="mdiCrosshairs"
            size="x-small"
            :active="drawing?.what === 'patch'"
            :aria-label="`Where patch ${place + 1} takes from`"
            title="Click in the picture where it takes from"
            @click="emit('from', place)"
          />
          <v-btn
            :icon="mdiDeleteOutline"
            size="x-small"
            :aria-label="`Remove patch ${place + 1}`"
            title="Remove it"
            @click="remove(place)"
          />
          <div class="more">
            <ChoiceRow
              :label="`Way of patch ${place + 1}`"
              :choices="ways"
              :chosen="one.way ?? 'mend'"
              @choose="setOne(place, madeBy(one, $event))"
            />
            <StrengthSlider
              label="Width"
              unit="px"
              :value="Math.round(one.stroke.size ?? 60)"
              :min="1"
              :max="400"
              hint="Of the brush that painted it"
              @change="(size, now) => resize(place, size, now)"
            />
            <template v-if="elsewhere(one)">
              <StrengthSlider
                label="Turn"
                unit="°"
                :value="one.turn ?? 0"
                :min="-180"
                :max="180"
                :usual="0"
                hint="By how much what it takes is turned"
                @change="(turn, now) => setOne(place, { turn }, now ?? false)"
              />
              <StrengthSlider
                label="Scale"
                unit="%"
                :value="Math.round(100 * (one.scale ?? 1))"
                :min="25"
                :max="400"
                :usual="100"
                hint="How large what it takes becomes"
                @change="(percent, now) => setOne(place, { scale: percent / 100 }, now ?? false)"
              />
            </template>
          </div>
        </template>
      </li>
    </ol>
  </div>
</template>

<style scoped>
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
.patches {
  list-style: none;
  padding: 0;
  max-height: 340px;
  overflow-y: auto;
}
.patches li {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px;
  padding: 1px 4px;
  border-radius: 3px;
}
.patches input[type='checkbox'] {
  accent-color: rgb(var(--v-theme-primary));
}
.chosen {
  background: rgba(var(--v-theme-on-surface), 0.1);
}
.more {
  flex-basis: 100%;
  display: flex;
  flex-direction: column;
  gap: 6px;
  padding: 4px 0 8px;
}
.name {
  flex: 1;
  min-width: 0;
  padding: 3px 4px;
  text-align: left;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
  cursor: pointer;
}
</style>
