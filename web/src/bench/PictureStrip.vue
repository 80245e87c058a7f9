<script setup lang="ts">
import { nextTick, ref, watch } from 'vue'

import type { Picture } from '../pictures/queries'

/** The job's pictures, to go from one to another without leaving the bench. */
const props = defineProps<{ pictures: Picture[]; shown: string }>()
const strip = ref<HTMLElement>()
watch(
  () => [props.shown, props.pictures.length],
  () =>
    nextTick(() =>
      strip.value?.querySelector('[aria-current]')?.scrollIntoView({ block: 'nearest', inline: 'center' }),
    ),
  { immediate: true },
)
</script>

<template>
  <nav ref="strip" class="strip" aria-label="Pictures of the job">
    <RouterLink
      v-for="picture in pictures"
      :key="picture.id"
      class="one"
      :to="{ name: 'bench', params: { jobId: picture.job_id, pictureId: picture.id } }"
      :aria-current="picture.id === shown ? 'page' : undefined"
      :title="picture.name"
    >
      <img :src="`/api/pictures/${picture.id}/preview`" alt="" loading="lazy" />
      <span class="name">{{ picture.name }}</span>
    </RouterLink>
  </nav>
</template>

<style scoped>
.strip {
  display: flex;
  flex: none;
  align-items: flex-start;
  gap: 6px;
  padding: 6px 12px;
  overflow-x: auto;
  background: rgb(var(--v-theme-surface));
  border-bottom: 1px solid rgba(var(--v-theme-on-surface), 0.14);
}
.one {
  flex: none;
  width: 104px;
  padding: 3px;
  color: inherit;
  text-decoration: none;
  border: 1px solid transparent;
  border-radius: 4px;
}
.one:hover {
  background: rgba(var(--v-theme-on-surface), 0.08);
}
.one[aria-current] {
  border-color: rgb(var(--v-theme-primary));
}
img {
  display: block;
  width: 100%;
  height: 62px;
  object-fit: contain;
}
.name {
  display: block;
  overflow: hidden;
  font-size: 13px;
  text-align: center;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
