<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'

import { answer, server, type Schemas } from '../api/client'
import type { Take } from '../takes/queries'

/**
 * Of a camera raw a first look, at fit, until its exact pixels are there: before it is read, the camera’s own picture. How far
 * developing it is, whenever that goes on.
 */
const props = defineProps<{ picture: Schemas['PictureOut']; take: Take; working: boolean }>()

const early = ref(true)
watch(
  () => props.working,
  (now, before) => {
    if (before && !now) early.value = false
  },
)
/** A cut or turned picture is not what the camera shows. */
const whole = computed(() => {
  const { framed, source } = props.take.plan!
  return framed.width === source.width && framed.height === source.height
})
const { data } = useQuery(
  computed(() => ({
    queryKey: ['developing', props.take.id],
    queryFn: ({ signal }: { signal: AbortSignal }) =>
      answer(server.GET('/api/takes/{take_id}/developing', { params: { path: { take_id: props.take.id } }, signal })),
    enabled: props.working,
    refetchInterval: 300,
    gcTime: 0,
  })),
)
/** In percent; null while nobody develops it. */
const percent = computed(() => {
  const share = props.working ? (data.value?.share ?? null) : null
  return share === null ? null : Math.round(100 * share)
})
const first = computed(() => early.value && whole.value && props.working)
const widest = computed(() => `${props.take.plan!.size.width / (window.devicePixelRatio || 1)}px`)
</script>

<template>
  <div v-if="first || percent !== null" class="early" role="status">
    <img
      v-if="first"
      :src="`/api/pictures/${picture.id}/preview`"
      alt=""
      :style="{ maxWidth: widest }"
      draggable="false"
    />
    <span class="small">
      {{ first ? 'a first look while it is developed' : 'being developed'
      }}{{ percent === null ? '' : `, ${percent} %` }}
    </span>
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
