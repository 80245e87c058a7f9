<script setup lang="ts">
import { ref, watch } from 'vue'

import { api, type Schemas } from '../api/client'

const props = defineProps<{
  takeId: string
  chain: string
  place: { x: number; y: number } | null
  exact: boolean
}>()

const read = ref<Schemas['PixelOut'] | null>(null)
let stop: AbortController | undefined
let timer: ReturnType<typeof setTimeout> | undefined

watch(
  () => [props.place, props.exact, props.chain] as const,
  () => {
    clearTimeout(timer)
    stop?.abort()
    if (!props.place || !props.exact) {
      read.value = null
      return
    }
    const { x, y } = props.place
    timer = setTimeout(async () => {
      stop = new AbortController()
      try {
        read.value = await api.get<Schemas['PixelOut']>(`/takes/${props.takeId}/pixel?x=${x}&y=${y}`, stop.signal)
      } catch {
        // moved on, or the take has changed: the next place asks again
      }
    }, 50)
  },
)

const values = (samples: number[]) => samples.map((sample) => String(sample)).join(' ')
</script>

<template>
  <div v-if="place" class="readout small" aria-label="Pixel">
    <span>{{ place.x }}, {{ place.y }}</span>
    <template v-if="read">
      <span>result {{ values(read.result) }} <i>16 bit</i></span>
      <span>source {{ read.source_x }}, {{ read.source_y }}: {{ values(read.source) }} <i>{{ read.source_bits }} bit</i></span>
    </template>
    <span v-else-if="!exact"><i>values from 100 % on</i></span>
  </div>
</template>

<style scoped>
.readout {
  position: absolute;
  left: 10px;
  bottom: 10px;
  display: flex;
  gap: 16px;
  padding: 2px 8px;
  background: rgba(var(--v-theme-surface), 0.9);
  border-radius: 3px;
  pointer-events: none;
}
i {
  opacity: 0.72;
}
</style>
