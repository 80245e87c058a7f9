<script setup lang="ts">
import { mdiClose, mdiDragVertical, mdiPause, mdiPlay } from '@mdi/js'
import { ref } from 'vue'

import { duration, fileSize, pixelSize } from '../parts/format'
import { formatText, heldText, type Delivery } from './useDeliveries'
import type { QueueChange } from './useQueue'

const props = defineProps<{ queue: Delivery[]; until: Map<string, number> }>()
const emit = defineEmits<{ order: [ids: string[]]; change: [what: QueueChange, id: string] }>()

const dragged = ref<string | null>(null)
const over = ref<string | null>(null)
const movable = (one: Delivery) => one.state !== 'running'

function move(id: string, to: number) {
  const ids = props.queue.filter(movable).map((one) => one.id)
  const from = ids.indexOf(id)
  if (from >= 0 && to >= 0 && to < ids.length && to !== from) emit('order', ids.toSpliced(from, 1).toSpliced(to, 0, id))
}
function letGo(onto: string) {
  if (dragged.value)
    move(
      dragged.value,
      props.queue.filter(movable).findIndex((one) => one.id === onto),
    )
  dragged.value = over.value = null
}
function step(event: KeyboardEvent, id: string, by: number) {
  if (!event.altKey) return
  event.preventDefault()
  move(id, props.queue.filter(movable).findIndex((one) => one.id === id) + by)
}

function told(one: Delivery): string {
  if (one.state === 'paused') return heldText(one)
  const seconds = props.until.get(one.id)
  const left = seconds === undefined ? '' : duration(seconds)
  return one.state === 'running' ? `${Math.round(one.progress * 100)} % · ${left} left` : `done in about ${left}`
}
</script>

<template>
  <ol class="lines" aria-label="Queue">
    <li
      v-for="one in queue"
      :key="one.id"
      :data-state="one.state"
      :class="{ over: over === one.id && dragged !== one.id }"
      :draggable="movable(one)"
      :tabindex="movable(one) ? 0 : undefined"
      :title="movable(one) ? 'Drag to make it earlier or later, or Alt with the arrow keys' : undefined"
      @dragstart="dragged = one.id"
      @dragend="dragged = over = null"
      @dragover.prevent="over = movable(one) ? one.id : null"
      @drop.prevent="letGo(one.id)"
      @keydown.up="step($event, one.id, -1)"
      @keydown.down="step($event, one.id, 1)"
    >
      <v-icon :icon="mdiDragVertical" size="18" class="handle" :class="{ none: !movable(one) }" />
      <img :src="`/api/pictures/${one.picture_id}/preview`" alt="" draggable="false" />
      <div class="what">
        <strong>{{ one.name }}</strong>
        <span class="quiet small"
          >{{ pixelSize(one) }} px · {{ formatText(one.spec)
          }}<template v-if="one.bytes"> · {{ fileSize(one.bytes) }}</template></span
        >
      </div>
      <v-progress-linear
        v-if="one.state === 'running'"
        class="bar"
        color="primary"
        :model-value="one.progress * 100"
        :aria-label="`Progress of ${one.name}`"
      />
      <span class="small state">{{ told(one) }}</span>
      <v-btn
        v-if="one.state === 'queued'"
        :icon="mdiPause"
        size="x-small"
        :aria-label="`Pause ${one.name}`"
        title="Pause"
        @click="emit('change', 'pause', one.id)"
      />
      <v-btn
        v-else-if="one.state === 'paused'"
        :icon="mdiPlay"
        size="x-small"
        :aria-label="`Resume ${one.name}`"
        title="Resume"
        @click="emit('change', 'resume', one.id)"
      />
      <v-btn
        :icon="mdiClose"
        size="x-small"
        :aria-label="`Cancel ${one.name}`"
        title="Cancel"
        @click="emit('change', 'cancel', one.id)"
      />
    </li>
  </ol>
</template>

<style scoped>
li {
  display: flex;
  align-items: center;
  gap: 12px;
  padding: 5px 8px 5px 0;
}
li[draggable='true'] {
  cursor: grab;
}
.over {
  box-shadow: 0 -2px 0 rgb(var(--v-theme-primary));
}
.handle {
  opacity: 0.6;
}
.none {
  visibility: hidden;
}
img {
  width: 52px;
  height: 38px;
  object-fit: contain;
}
.bar {
  flex: 0 0 160px;
}
.state {
  min-width: 150px;
  text-align: right;
}
</style>
