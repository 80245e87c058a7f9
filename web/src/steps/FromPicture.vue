<script setup lang="ts">
import { mdiEyedropper, mdiImageSearchOutline } from '@mdi/js'
import { computed } from 'vue'

import { kindOf, type StepKind } from './kinds'
import { useDrawing } from './useDrawing'

/** Lets the picture itself set a step: all of it, or a place of it that should be grey. */
const props = defineProps<{ kind: StepKind; index: number }>()
const emit = defineEmits<{ start: [] }>()
const { drawing } = useDrawing()

const from = computed(() => kindOf(props.kind).starts_from)
const picking = computed(() => drawing.value?.step === props.index && drawing.value.what === 'grey')
const pick = () => (drawing.value = picking.value ? null : { step: props.index, what: 'grey' })
</script>

<template>
  <div class="from">
    <v-btn
      v-if="from.includes('picture')"
      size="small"
      :prepend-icon="mdiImageSearchOutline"
      title="Set it by what the picture is like, with reasons"
      @click="emit('start')"
      >From the picture</v-btn
    >
    <v-btn
      v-if="from.includes('grey')"
      size="small"
      :prepend-icon="mdiEyedropper"
      :active="picking"
      title="Click a place that should be grey"
      @click="pick"
      >Grey</v-btn
    >
  </div>
</template>

<style scoped>
.from {
  display: flex;
  flex-wrap: wrap;
  gap: 2px;
}
.from .v-btn {
  min-width: 0;
  padding: 0 6px;
}
</style>
