<script setup lang="ts">
import { ref } from 'vue'

import type { Spot } from './useSpots'

/** The head of a column: the spot's name, which a double-click changes. */
const props = defineProps<{ spot: Spot; number: number }>()
const emit = defineEmits<{ rename: [name: string]; remove: [] }>()
const name = ref<string | null>(null)

function done() {
  const wish = name.value?.trim()
  name.value = null
  if (wish && wish !== props.spot.name) emit('rename', wish)
}
</script>

<template>
  <th scope="col" :title="spot.reason || 'Double-click to rename'">
    <input
      v-if="name !== null"
      v-model="name"
      v-focus
      class="rename"
      aria-label="Name of the spot"
      maxlength="60"
      @keydown.enter="done"
      @keydown.esc="name = null"
      @blur="done"
    />
    <span v-else class="spot" @dblclick="name = spot.name"
      ><b>{{ number }}</b> {{ spot.name }}</span
    >
    <button class="off" :aria-label="`Take check spot ${spot.name} off`" title="Take off (Del)" @click="emit('remove')">
      ×
    </button>
  </th>
</template>

<style scoped>
th {
  position: sticky;
  top: 0;
  z-index: 1;
  height: 24px;
  max-width: var(--cell-width);
  font-size: 13px;
  font-weight: 400;
  text-align: left;
  background: rgb(var(--v-theme-surface));
}
.spot {
  display: block;
  padding-right: 18px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.off {
  position: absolute;
  right: 2px;
  top: 1px;
  padding: 0 4px;
  opacity: 0;
  cursor: pointer;
}
th:hover .off,
.off:focus-visible {
  opacity: 1;
}
.rename {
  width: 100%;
  background: rgb(var(--v-theme-background));
}
</style>
