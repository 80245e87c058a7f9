<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'

import type { Schemas } from '../api/client'
import { number } from '../parts/format'
import StrengthSlider from '../parts/StrengthSlider.vue'
import type { Step, Take } from '../takes/queries'
import { kindOf, type StepOf } from './kinds'
import { stepQueries } from './queries'
import { wholePeriods } from './seamless'

type Seamless = StepOf<'seamless'>

/** A texture that meets itself: how far its ends lie over each other, and how much of its light is evened out. */
const props = defineProps<{ step: Seamless; index: number; take: Take; picture: Schemas['PictureOut'] }>()
const emit = defineEmits<{ change: [step: Seamless, now?: boolean]; steps: [steps: Step[]]; laid: [] }>()
const set = (changed: Partial<Seamless>, now?: boolean) => emit('change', { ...props.step, ...changed }, now)
const usual = kindOf('seamless').begun as Seamless

/** What comes before it decides how its input repeats. */
const before = computed(() => JSON.stringify(props.take.steps.slice(0, props.index)))
const {
  data: found,
  error,
  isFetching,
} = useQuery(computed(() => stepQueries.repeats(props.take.id, props.index, before.value)))
const sides = computed(() => {
  const { across, down } = found.value ?? {}
  if (!across?.period && !down?.period) return null
  const one = (period?: number | null) => (period ? number(period, 1) : '—')
  return `${one(across?.period)} × ${one(down?.period)} px`
})
/** The steps with what is whole periods cropped; null if that changes nothing. */
const cut = computed(() =>
  found.value && sides.value ? wholePeriods(props.take, props.picture, props.index, found.value) : null,
)
const ways = [
  { name: 'across', title: 'Across', hint: 'How much of the right end lies over the left one' },
  { name: 'down', title: 'Down', hint: 'How much of the lower end lies over the upper one' },
] as const
</script>

<template>
  <div class="settings">
    <StrengthSlider
      v-for="{ name, title, hint } in ways"
      :key="name"
      :label="title"
      unit="%"
      :value="step[name]"
      :usual="usual[name]"
      :max="45"
      :step="0.25"
      :digits="2"
      :hint="hint"
      @change="(value, now) => set({ [name]: value }, now)"
    />
    <StrengthSlider
      label="Even light"
      unit="%"
      :value="step.even"
      :usual="usual.even"
      hint="Light that changes over the picture would make a step at every seam"
      @change="(even, now) => set({ even }, now)"
    />
    <p class="small quiet" role="status">
      <template v-if="error">{{ error.message }}</template>
      <template v-else-if="!found || isFetching">looking how it repeats …</template>
      <template v-else-if="sides">It comes again every {{ sides }}.</template>
      <template v-else>It does not repeat: its ends are laid over each other.</template>
    </p>
    <div class="tools">
      <v-btn
        size="small"
        :disabled="!found"
        title="Lay its ends over each other where they are most alike"
        @click="found && set({ across: found.across.overlap, down: found.down.overlap }, true)"
        >Best overlap</v-btn
      >
      <v-btn
        size="small"
        :disabled="!cut"
        title="Crop it in the frame so that it holds whole periods; nothing need lie over then"
        @click="cut && emit('steps', cut)"
        >Whole periods</v-btn
      >
      <v-btn size="small" title="Laid edge to edge, with the seam in the middle" @click="emit('laid')"
        >Look at it laid</v-btn
      >
    </div>
  </div>
</template>

<style scoped>
.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}
.tools .v-btn {
  min-width: 0;
  padding: 0 6px;
}
</style>
