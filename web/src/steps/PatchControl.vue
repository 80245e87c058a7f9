<script setup lang="ts">
import { mdiBrush, mdiCrosshairs, mdiDeleteOutline } from '@mdi/js'
import { computed } from 'vue'

import BrushSliders from '../masks/BrushSliders.vue'
import { useBrush } from '../masks/useBrush'
import ChoiceRow from '../parts/ChoiceRow.vue'
import type { StepOf } from './kinds'
import { mostPatches, patching, wayTitles, type Patch, type Way } from './patches'
import { useDrawing } from './useDrawing'

type PatchStep = StepOf<'patch'>

/** Places that are painted over, each of which can be changed, switched off and taken away. */
const props = defineProps<{ step: PatchStep; index: number }>()
const emit = defineEmits<{
  change: [step: PatchStep, now?: boolean]
  /** The brush is taken up or put down. */
  patch: []
  /** The other place of a patch is picked in the picture. */
  from: [patch: number]
}>()
const { painting } = useBrush()
const { drawing } = useDrawing()

const patches = computed(() => props.step.patches ?? [])
const active = computed(() => painting.value === props.index)
const full = computed(() => patches.value.length >= mostPatches)
const ways: { value: Way; title: string; what: string }[] = [
  { value: 'mend', title: 'Mend', what: 'Texture from elsewhere, tone and light from around' },
  { value: 'clone', title: 'Clone', what: 'Just as it is elsewhere' },
]
const set = (changed: Patch[]) => emit('change', { ...props.step, patches: changed }, true)
const setOne = (place: number, changed: Partial<Patch>) =>
  set(patches.value.with(place, { ...patches.value[place]!, ...changed }))
function remove(place: number) {
  patching.chosen = null
  set(patches.value.toSpliced(place, 1))
}
</script>

<template>
  <div class="settings">
    <v-btn
      size="small"
      :prepend-icon="mdiBrush"
      :active="active"
      :disabled="full"
      title="Paint over what should not be there"
      @click="emit('patch')"
      >{{ active ? 'Put the brush down' : 'Paint over' }}</v-btn
    >
    <p v-if="full" class="small" role="status">A step holds {{ mostPatches }} patches; add another one.</p>
    <ChoiceRow label="Way" :choices="ways" :chosen="patching.way" @choose="patching.way = $event" />
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
            size="x-small"
            class="other"
            :title="one.way === 'mend' ? 'Clone instead' : 'Mend instead'"
            @click="setOne(place, { way: one.way === 'mend' ? 'clone' : 'mend' })"
            >{{ one.way === 'mend' ? 'Clone' : 'Mend' }}</v-btn
          >
          <v-btn
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
        </template>
      </li>
    </ol>
  </div>
</template>

<style scoped>
.settings > .v-btn {
  justify-self: start;
}
.patches {
  list-style: none;
  padding: 0;
  max-height: 220px;
  overflow-y: auto;
}
.patches li {
  display: flex;
  align-items: center;
  gap: 4px;
  padding: 1px 4px;
  border-radius: 3px;
}
.patches input {
  accent-color: rgb(var(--v-theme-primary));
}
.chosen {
  background: rgba(var(--v-theme-on-surface), 0.1);
}
.other {
  min-width: 0;
  padding: 0 4px;
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
