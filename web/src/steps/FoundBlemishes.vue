<script setup lang="ts">
import { computed } from 'vue'

import StrengthSlider from '../parts/StrengthSlider.vue'
import { dismiss, patching, wanted, type Proposed } from './patches'

/** What was found to be painted over: as sure as one wants, each of which can be refused in the picture. */
const props = defineProps<{ room: number }>()
const emit = defineEmits<{ take: [found: Proposed[]] }>()

const chosen = computed(() => wanted().slice(0, props.room))
const count = (kind: Proposed['kind']) => chosen.value.filter((place) => patching.found![place]!.kind === kind).length
const of = (number: number, one: string) => `${number} ${number === 1 ? one : `${one}s`}`

function take() {
  const found = patching.found!
  emit(
    'take',
    chosen.value.map((place) => found[place]!),
  )
  dismiss()
}
</script>

<template>
  <div class="found" role="group" aria-label="What was found">
    <p class="small" role="status">
      {{ of(count('speck'), 'speck') }}, {{ of(count('line'), 'line') }} of {{ patching.found!.length }} found. Click
      one in the picture to refuse it.
    </p>
    <StrengthSlider
      label="At least this sure"
      unit="%"
      :value="patching.least"
      :min="50"
      :max="99"
      hint="Fewer, and surer, to the right"
      @change="patching.least = $event"
    />
    <div class="row">
      <v-btn size="small" color="primary" variant="flat" :disabled="!chosen.length" @click="take"
        >Take {{ chosen.length }}</v-btn
      >
      <v-btn size="small" @click="dismiss">Dismiss</v-btn>
    </div>
  </div>
</template>

<style scoped>
.found {
  display: flex;
  flex-direction: column;
  gap: 6px;
  padding: 8px;
  border: 1px solid rgba(var(--v-theme-on-surface), 0.24);
  border-radius: 4px;
}
.row {
  display: flex;
  gap: 6px;
}
</style>
