<script setup lang="ts">
import { ref } from 'vue'

const props = defineProps<{ before: string; after: string; beforeName: string; afterName: string }>()
/** Share of the width that shows the sample before. */
const place = ref(0.5)
const area = ref<HTMLElement>()
const broken = ref(false)

function follow(event: PointerEvent) {
  const box = area.value!.getBoundingClientRect()
  place.value = Math.max(0, Math.min(1, (event.clientX - box.left) / box.width))
}
</script>

<template>
  <div ref="area" class="pair" @pointermove="follow" @pointerdown="follow">
    <p v-if="broken" class="small quiet none">The sample could not be computed.</p>
    <template v-else>
      <img :src="after" :alt="`Sample, ${afterName}`" loading="lazy" draggable="false" @error="broken = true" />
      <img
        :src="before"
        :alt="`Sample, ${beforeName}`"
        loading="lazy"
        draggable="false"
        class="first"
        :style="{ clipPath: `inset(0 ${100 - place * 100}% 0 0)` }"
        @error="broken = true"
      />
      <span class="seam" :style="{ left: `${place * 100}%` }" />
      <span class="tag left">{{ beforeName }}</span>
      <span class="tag right">{{ props.afterName }}</span>
      <input
        v-model.number="place"
        class="reach"
        type="range"
        min="0"
        max="1"
        step="0.02"
        :aria-label="`Share that shows ${beforeName}`"
      />
    </template>
  </div>
</template>

<style scoped>
.pair {
  position: relative;
  aspect-ratio: 3 / 2;
  overflow: hidden;
  cursor: ew-resize;
  background: rgb(var(--v-theme-background));
  border-radius: 3px;
  touch-action: pan-y;
}
img {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  object-fit: cover;
}
.seam {
  position: absolute;
  top: 0;
  bottom: 0;
  width: 2px;
  margin-left: -1px;
  background: #fff;
  box-shadow: 0 0 0 1px rgba(0, 0, 0, 0.4);
}
.tag {
  position: absolute;
  bottom: 6px;
  padding: 0 7px;
  font-size: 13px;
  color: #fff;
  background: rgba(0, 0, 0, 0.62);
  border-radius: 3px;
  pointer-events: none;
}
.left {
  left: 6px;
}
.right {
  right: 6px;
}
.reach {
  position: absolute;
  inset: auto 0 0;
  width: 100%;
  opacity: 0;
  pointer-events: none;
}
.pair:focus-within {
  outline: 2px solid rgb(var(--v-theme-primary));
}
.none {
  padding: 20px;
}
</style>
