<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import type { Schemas } from '../api/client'
import type { Plan } from '../viewer/layer'

/** Of a camera raw a first look, at fit, until its exact pixels are there: before it is read, the camera’s own picture. */
const props = defineProps<{ picture: Schemas['PictureOut']; plan: Plan; working: boolean }>()

const early = ref(true)
watch(
  () => props.working,
  (now, before) => {
    if (before && !now) early.value = false
  },
)
/** A cut or turned picture is not what the camera shows. */
const whole = computed(() => {
  const { framed, source } = props.plan
  return framed.width === source.width && framed.height === source.height
})
const widest = computed(() => `${props.plan.size.width / (window.devicePixelRatio || 1)}px`)
</script>

<template>
  <div v-if="early && whole && working" class="early" role="status">
    <img :src="`/api/pictures/${picture.id}/preview`" alt="" :style="{ maxWidth: widest }" draggable="false" />
    <span class="small">a first look while it is developed</span>
  </div>
</template>

<style scoped>
.early {
  position: absolute;
  inset: 0;
  pointer-events: none;
}
img {
  position: absolute;
  inset: 0;
  margin: auto;
  width: 100%;
  height: 100%;
  object-fit: contain;
}
span {
  position: absolute;
  left: 10px;
  bottom: 10px;
  padding: 2px 8px;
  font-size: 13px;
  background: rgba(var(--v-theme-surface), 0.86);
  border-radius: 3px;
}
</style>
