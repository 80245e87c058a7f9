<script setup lang="ts">
import { computed } from 'vue'

import StrengthSlider from '../parts/StrengthSlider.vue'

import { colourSpaces, intents } from './colourSpaces'
import { type Output, formats, ofRaws, usualOutput, written } from './output'

const spec = defineModel<Output>({ required: true })
const props = defineProps<{ kept: string; raw?: boolean }>()
const offered = computed(() => (props.raw ? [...formats, ofRaws] : formats))
const set = (changed: Partial<Output>) => (spec.value = { ...spec.value, ...changed })
/** Floating point keeps the source's colour space. */
const setDepth = (depth: Output['depth']) => set(depth === 32 ? { depth, profile: 'keep' } : { depth })

const holds16 = computed(
  () => ['tiff', 'png'].includes(spec.value.format) || (spec.value.format === 'pdf' && spec.value.lossless),
)
const hasQuality = computed(
  () => ['jpeg', 'webp', 'pdf'].includes(spec.value.format) && !(spec.value.format !== 'jpeg' && spec.value.lossless),
)
const hasChroma = computed(() => spec.value.format === 'jpeg' || (spec.value.format === 'pdf' && !spec.value.lossless))
const depths = computed(() => [
  ...(spec.value.format === 'tiff' ? [{ value: 32, title: '32 bit float' }] : []),
  { value: 16, title: '16 bit' },
  { value: 8, title: '8 bit' },
])
const compressions = [
  { value: 'zip', title: 'ZIP, lossless' },
  { value: 'lzw', title: 'LZW, lossless' },
  { value: 'none', title: 'None' },
]
const chromas = [
  { value: 'full', title: '4:4:4, full' },
  { value: 'half', title: '4:2:0, half' },
]
</script>

<template>
  <div class="output">
    <v-btn-toggle
      :model-value="spec.format"
      mandatory
      density="comfortable"
      variant="outlined"
      class="wide"
      aria-label="Format"
      @update:model-value="set({ format: $event })"
    >
      <v-btn v-for="one in offered" :key="one.value" :value="one.value" :title="one.what">{{ one.title }}</v-btn>
    </v-btn-toggle>
    <v-select
      v-if="holds16"
      label="Depth"
      :items="depths"
      :model-value="written(spec).depth"
      @update:model-value="setDepth($event)"
    />
    <v-select
      v-if="spec.format === 'tiff'"
      label="Compression"
      :items="compressions"
      :model-value="spec.compression"
      @update:model-value="set({ compression: $event })"
    />
    <StrengthSlider
      v-if="hasQuality"
      label="Quality"
      :min="40"
      :usual="usualOutput.quality"
      :value="spec.quality"
      @change="set({ quality: $event })"
    />
    <v-select
      v-if="hasChroma"
      label="Chroma"
      :items="chromas"
      :model-value="spec.chroma"
      @update:model-value="set({ chroma: $event })"
    />
    <v-checkbox
      v-if="spec.format === 'webp' || spec.format === 'pdf'"
      label="Lossless"
      :model-value="spec.lossless"
      @update:model-value="set({ lossless: Boolean($event) })"
    />
    <v-checkbox
      v-if="spec.format === 'jpeg'"
      label="Progressive"
      title="Shown coarsely first while it arrives"
      :model-value="spec.progressive"
      @update:model-value="set({ progressive: Boolean($event) })"
    />
    <v-checkbox
      v-if="spec.format === 'tiff'"
      label="In tiles"
      title="256 × 256 px tiles instead of strips: quick to open in part"
      :model-value="spec.tiled"
      @update:model-value="set({ tiled: Boolean($event) })"
    />
    <v-select
      v-if="spec.format !== 'dng'"
      label="Colour space"
      :items="colourSpaces(kept)"
      :model-value="spec.profile"
      @update:model-value="set({ profile: $event })"
    />
    <v-select
      v-if="spec.profile !== 'keep' && spec.format !== 'dng'"
      label="Rendering intent"
      :items="intents"
      :model-value="spec.intent"
      @update:model-value="set({ intent: $event })"
    />
    <v-checkbox
      v-if="spec.profile !== 'keep'"
      label="Black point compensation"
      title="Black of one space becomes black of the other"
      :model-value="spec.black_point"
      @update:model-value="set({ black_point: Boolean($event) })"
    />
    <v-text-field
      label="Longest side at most"
      suffix="px"
      placeholder="as it is"
      persistent-placeholder
      inputmode="numeric"
      title="Larger results are made smaller for this file"
      :model-value="spec.longest_side ?? ''"
      @update:model-value="set({ longest_side: Math.round(Number($event)) || null })"
    />
    <slot />
    <v-checkbox
      label="Keep camera and caption data"
      title="EXIF, XMP, IPTC"
      :model-value="spec.metadata"
      @update:model-value="set({ metadata: Boolean($event) })"
    />
    <v-checkbox
      v-if="spec.metadata"
      label="Keep where it was taken"
      :model-value="spec.location"
      @update:model-value="set({ location: Boolean($event) })"
    />
  </div>
</template>

<style scoped>
.output {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 14px;
  align-items: center;
}
.output > :deep(.wide) {
  grid-column: 1 / -1;
}
</style>
