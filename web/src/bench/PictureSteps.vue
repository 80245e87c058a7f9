<script setup lang="ts">
import { mdiChevronLeft, mdiChevronRight } from '@mdi/js'
import { computed } from 'vue'
import { useRouter } from 'vue-router'

import { useKeys } from '../parts/useKeys'
import { useBench } from './useBench'

/** From picture to picture of the job: the one before, the next, or any on the strip. */
const { address, pictures, open } = useBench()
const router = useRouter()
const place = computed(() => pictures.value?.findIndex((one) => one.id === address.pictureId) ?? -1)
const count = computed(() => pictures.value?.length ?? 0)

function go(way: 1 | -1) {
  const next = pictures.value?.[(place.value + way + count.value) % count.value]
  if (next && count.value > 1) void router.push({ name: 'bench', params: { jobId: address.jobId, pictureId: next.id } })
}
const toggle = () => (open.strip = !open.strip)
useKeys(() => [
  { key: 'pageup', shown: 'Page ↑ ↓', does: 'the picture before, the next one', group: 'look', run: () => go(-1) },
  { key: 'pagedown', shown: 'Page ↑ ↓', does: 'the picture before, the next one', group: 'look', run: () => go(1) },
  { key: 'shift+p', shown: 'Shift P', does: 'strip of the job’s pictures', group: 'look', run: toggle },
])
</script>

<template>
  <div v-if="count > 1" class="steps" role="group" aria-label="Pictures">
    <v-btn
      :icon="mdiChevronLeft"
      size="x-small"
      aria-label="Picture before"
      title="Picture before (Page ↑)"
      @click="go(-1)"
    />
    <button class="small" :aria-expanded="open.strip" title="The job's pictures (Shift P)" @click="toggle">
      {{ place + 1 }} of {{ count }}
    </button>
    <v-btn
      :icon="mdiChevronRight"
      size="x-small"
      aria-label="Next picture"
      title="Next picture (Page ↓)"
      @click="go(1)"
    />
  </div>
</template>

<style scoped>
.steps {
  display: flex;
  flex: none;
  align-items: center;
}
button.small {
  padding: 2px 4px;
  white-space: nowrap;
  cursor: pointer;
}
</style>
