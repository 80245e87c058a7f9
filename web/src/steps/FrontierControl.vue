<script setup lang="ts">
import { computed, useId } from 'vue'

import type { Schemas } from '../api/client'
import TrialCell from './TrialCell.vue'
import { cleanest, mostDetailed, placeOf, tradeAt, type Denoise, type Trade } from './frontier'

const props = defineProps<{ step: Denoise; index: number; take: Schemas['TakeOut'] }>()
const emit = defineEmits<{ change: [trade: Trade, now?: boolean] }>()

const id = useId()
const place = computed(() =>
  placeOf({ luminance: props.step.luminance, colour: props.step.colour, detail: props.step.detail }),
)
const ends = [
  { title: 'cleanest', trade: cleanest },
  { title: 'most detailed', trade: mostDetailed },
]
const stepsWith = (trade: Trade) => props.take.steps.with(props.index, { ...props.step, ...trade, on: true })
</script>

<template>
  <section class="frontier" aria-label="Noise against detail">
    <div class="ends">
      <button
        v-for="end in ends"
        :key="end.title"
        class="end"
        :title="`Go to the ${end.title} end`"
        @click="emit('change', end.trade, true)"
      >
        <TrialCell :take="take" :steps="stepsWith(end.trade)" :label="end.title" />
        <span :id="`${id}-${end.title}`" class="small">{{ end.title }}</span>
      </button>
    </div>
    <v-slider
      :model-value="place ?? 50"
      :class="{ beside: place === null }"
      :min="0"
      :max="100"
      :step="1"
      aria-label="From cleanest to most detailed"
      :title="
        place === null
          ? 'The settings below lie beside this way; move it to come back to it'
          : 'All three settings below at once'
      "
      @update:model-value="emit('change', tradeAt($event))"
      @end="emit('change', tradeAt($event), true)"
    />
  </section>
</template>

<style scoped>
.ends {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 6px;
}
.end {
  display: grid;
  gap: 2px;
  text-align: left;
  cursor: pointer;
}
.end:last-child {
  text-align: right;
}
/* The settings are beside the way: the thumb tells no place on it. */
.beside {
  opacity: 0.5;
}
</style>
