<script setup lang="ts">
import { nextTick, onMounted, ref } from 'vue'

/** In shares of the picture. */
const place = defineModel<{ x: number; y: number } | null>('place', { required: true })
const name = defineModel<string>('name', { required: true })
const emit = defineEmits<{ leave: [words: string]; cancel: [] }>()

const words = ref('')
const field = ref<HTMLTextAreaElement>()
/** How far an arrow moves the place, as a share of the picture. */
const step = 0.02

onMounted(() => nextTick(() => field.value?.focus()))

const ways: Record<string, [number, number]> = {
  ArrowLeft: [-step, 0],
  ArrowRight: [step, 0],
  ArrowUp: [0, -step],
  ArrowDown: [0, step],
}
function shift(event: KeyboardEvent) {
  const way = ways[event.key]
  if (!way || !place.value) return
  event.preventDefault()
  const within = (value: number) => Math.min(1, Math.max(0, value))
  place.value = { x: within(place.value.x + way[0]), y: within(place.value.y + way[1]) }
}
</script>

<template>
  <form class="note" @submit.prevent="emit('leave', words)" @keydown.esc="emit('cancel')">
    <h3>A note on this place</h3>
    <button type="button" class="small" aria-label="Place of the note: move it by the arrow keys" @keydown="shift">
      Move by the arrow keys
    </button>
    <label>
      <span class="small">What about it?</span>
      <textarea ref="field" v-model="words" rows="3" required maxlength="2000" />
    </label>
    <label>
      <span class="small">Your name</span>
      <input v-model="name" type="text" required maxlength="80" autocomplete="name" />
    </label>
    <div class="row">
      <button class="first" :disabled="!words.trim() || !name.trim()">Leave the note</button>
      <button type="button" @click="emit('cancel')">Cancel</button>
    </div>
  </form>
</template>

<style scoped>
.note {
  display: flex;
  flex-direction: column;
  align-items: flex-start;
  gap: 10px;
  max-width: 34em;
  padding: 14px 16px;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--raised);
}
label {
  width: 100%;
}
.row {
  display: flex;
  gap: 10px;
}
</style>
