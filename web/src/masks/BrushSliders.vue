<script setup lang="ts">
import StrengthSlider from '../parts/StrengthSlider.vue'
import { useBrush } from './useBrush'

/** How large and how soft the brush is that is in hand. */
const { brush } = useBrush()
</script>

<template>
  <StrengthSlider
    label="Size"
    unit="px"
    :value="brush.size"
    :min="2"
    :max="400"
    hint="In pixels of the source ( , and ; )"
    @change="brush.size = $event"
  />
  <StrengthSlider
    label="Softness"
    :value="brush.softness"
    hint="How far it fades towards its rim"
    @change="brush.softness = $event"
  />
</template>
