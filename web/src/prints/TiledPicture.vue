<script setup lang="ts">
import { computed } from 'vue'

import { resultLayer, tileOf, type Plan } from '../viewer/layer'
import { divisorOf, sideAt } from '../viewer/tileGrid'

/** A take's result drawn `width` CSS pixels wide, from the tiles of the level that has as many pixels as the screen shows. */
const props = defineProps<{ takeId: string; plan: Plan; width: number }>()

const level = computed(() => {
  const needed = props.width * (window.devicePixelRatio || 1)
  let found = 0
  while (found < 32 && needed * divisorOf(found + 1) <= props.plan.size.width) found++
  return found
})
const side = computed(() => sideAt(level.value))
const reduced = (pixels: number) => Math.max(1, Math.ceil(pixels / divisorOf(level.value)))
const height = computed(() => (props.width * props.plan.size.height) / props.plan.size.width)
const tiles = computed(() => {
  const [wide, high] = [reduced(props.plan.size.width), reduced(props.plan.size.height)]
  const scale = props.width / wide
  const layer = resultLayer(props.takeId, props.plan, props.plan)
  // Tiles share a pixel with each neighbour.
  const span = (index: number, length: number) => {
    const start = Math.max(0, index * side.value - 1)
    return { start: start * scale, length: (Math.min(length, (index + 1) * side.value + 1) - start) * scale }
  }
  return Array.from({ length: Math.ceil(high / side.value) }, (_, row) =>
    Array.from({ length: Math.ceil(wide / side.value) }, (_, column) => {
      const [x, y] = [span(column, wide), span(row, high)]
      return {
        source: tileOf(layer, level.value, column, row),
        style: { left: `${x.start}px`, top: `${y.start}px`, width: `${x.length}px`, height: `${y.length}px` },
      }
    }),
  ).flat()
})
</script>

<template>
  <div class="picture" :style="{ width: `${width}px`, height: `${height}px` }">
    <img
      v-for="tile in tiles"
      :key="tile.source"
      :src="tile.source"
      :style="tile.style"
      alt=""
      draggable="false"
      loading="lazy"
    />
  </div>
</template>

<style scoped>
.picture {
  position: relative;
  overflow: hidden;
}
img {
  position: absolute;
}
</style>
