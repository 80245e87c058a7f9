<script setup lang="ts">
import ChoiceRow from '../parts/ChoiceRow.vue'
import StrengthSlider from '../parts/StrengthSlider.vue'
import { bare, edges, type Layout } from './layout'

const layout = defineModel<Layout>({ required: true })
const set = (changed: Partial<Layout>) => (layout.value = { ...layout.value, ...changed })
</script>

<template>
  <section class="paper" aria-label="Around the picture">
    <StrengthSlider
      label="Border"
      unit="mm"
      :value="layout.border_mm"
      :usual="bare.border_mm"
      :max="100"
      hint="Paper left free on every side"
      @change="set({ border_mm: $event })"
    />
    <StrengthSlider
      label="Canvas wrap"
      unit="mm"
      :value="layout.wrap_mm"
      :usual="bare.wrap_mm"
      :max="80"
      hint="Depth that goes around the bars"
      @change="set({ wrap_mm: $event })"
    />
    <ChoiceRow
      v-if="layout.wrap_mm"
      label="On the wrap"
      :choices="edges"
      :chosen="layout.wrap"
      @choose="set({ wrap: $event })"
    />
    <label v-if="layout.border_mm || (layout.wrap_mm && layout.wrap === 'plain')" class="small colour">
      Colour
      <input type="color" :value="layout.colour" @change="set({ colour: ($event.target as HTMLInputElement).value })" />
    </label>
    <StrengthSlider
      label="Bleed"
      unit="mm"
      :value="layout.bleed_mm"
      :usual="bare.bleed_mm"
      :max="20"
      hint="Printed beyond the cut, to be cut off"
      @change="set({ bleed_mm: $event })"
    />
    <label class="small"
      ><input
        type="checkbox"
        :checked="layout.marks"
        @change="set({ marks: ($event.target as HTMLInputElement).checked })"
      />
      trim marks{{ layout.wrap_mm ? ' and fold marks' : '' }}</label
    >
    <div class="panels">
      <v-text-field
        label="Panels across"
        inputmode="numeric"
        min="1"
        max="12"
        :model-value="layout.panels_across"
        @update:model-value="set({ panels_across: Math.min(12, Math.max(1, Math.round(Number($event)) || 1)) })"
      />
      <v-text-field
        label="Panels down"
        inputmode="numeric"
        min="1"
        max="12"
        :model-value="layout.panels_down"
        @update:model-value="set({ panels_down: Math.min(12, Math.max(1, Math.round(Number($event)) || 1)) })"
      />
    </div>
    <StrengthSlider
      v-if="layout.panels_across * layout.panels_down > 1"
      label="Overlap"
      unit="mm"
      :value="layout.overlap_mm"
      :usual="bare.overlap_mm"
      :max="100"
      hint="What neighbouring panels share"
      @change="set({ overlap_mm: $event })"
    />
  </section>
</template>

<style scoped>
.paper {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.panels {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
  margin-top: 6px;
}
.colour {
  display: flex;
  gap: 8px;
  align-items: center;
}
</style>
