<script setup lang="ts">
import { computed } from 'vue'

import GradientLayer from '../masks/GradientLayer.vue'
import PaintLayer from '../masks/PaintLayer.vue'
import NotePins from '../showings/NotePins.vue'
import { patching } from '../steps/patches'
import type { View } from '../viewer/content'
import type { Plan } from '../viewer/layer'
import DrawLayer from './DrawLayer.vue'
import PatchLayer from './PatchLayer.vue'
import { useBench } from './useBench'

/** What lies over the leading take for hands: the brush, what is drawn, a gradient, patches; and what the client noted. */
defineProps<{ plan: Plan; view: View; takeId: string }>()
const emit = defineEmits<{ zoom: [way: 1 | -1, about: { x: number; y: number }] }>()
const { hands, clientNotes } = useBench()
const { gradient } = hands.masks
const painting = hands.painting
const drawing = computed(() => hands.drawing.value?.what ?? null)
const zoomed = (way: 1 | -1, about: { x: number; y: number }) => emit('zoom', way, about)
</script>

<template>
  <PaintLayer
    v-if="painting"
    :plan="plan"
    :view="view"
    :made="hands.made.value"
    @stroke="hands.addStroke"
    @zoom="zoomed"
  />
  <DrawLayer v-else-if="drawing" :plan="plan" :view="view" :what="drawing" @drawn="hands.drawn" @zoom="zoomed" />
  <template v-else>
    <GradientLayer v-if="gradient" :plan="plan" :view="view" :part="gradient" @change="hands.masks.setPart" />
    <PatchLayer
      v-if="patching.found || hands.patches.all.value.length"
      :plan="plan"
      :view="view"
      :patches="hands.patches.all.value"
      @change="hands.patches.setOne"
    />
    <NotePins v-if="clientNotes.length" :notes="clientNotes" :take-id="takeId" :reference="plan.size" :view="view" />
  </template>
</template>
