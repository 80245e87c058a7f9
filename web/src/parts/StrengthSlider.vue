<script setup lang="ts">
import { ref, useId, watch } from 'vue'

import { number } from './format'
import { calculated, stepOf } from './numbers'

const props = withDefaults(
  defineProps<{
    label: string
    value: number
    min?: number
    max?: number
    step?: number
    digits?: number
    unit?: string
    hint?: string
    /** What it is when nobody has touched it. */
    usual?: number
  }>(),
  { min: 0, max: 100, step: 1, digits: 0, unit: '', hint: '', usual: undefined },
)
const emit = defineEmits<{ change: [value: number, now?: boolean] }>()

const id = useId()
const typed = ref('')
watch(
  () => props.value,
  (value) => (typed.value = number(value, props.digits)),
  { immediate: true },
)

/** Arrow keys, and the wheel where the number is being edited, move it; other numbers on the page stay as they are. */
function move(event: KeyboardEvent | WheelEvent, way: number) {
  if (event.target !== document.activeElement) return
  event.preventDefault()
  const value = calculated(typed.value)
  const moved = (Number.isNaN(value) ? props.value : value) + way * stepOf(event, props.step)
  const held = Math.max(props.min, Math.min(props.max, moved))
  typed.value = number(held, Math.max(props.digits, event.altKey ? 1 : 0))
  emit('change', held)
}

function reset() {
  emit('change', props.usual!, true)
}

function take(text: string) {
  const value = calculated(text)
  if (!Number.isFinite(value)) typed.value = number(props.value, props.digits)
  else if (value !== props.value) emit('change', Math.max(props.min, Math.min(props.max, value)), true)
}
</script>

<template>
  <div class="strength">
    <div class="head">
      <span v-if="usual === undefined" :id="id">{{ label }}</span>
      <button
        v-else
        :id="id"
        type="button"
        class="label"
        :title="`${hint ? `${hint}. ` : ''}Back to ${number(usual, digits)}: double click, or Backspace here`"
        @dblclick="reset"
        @keydown.backspace.stop.prevent="reset"
      >
        {{ label }}
      </button>
      <span class="typed">
        <input
          v-model="typed"
          inputmode="decimal"
          data-own
          :aria-label="`${label}${unit ? `, ${unit}` : ''}`"
          @keydown.up="move($event, 1)"
          @keydown.down="move($event, -1)"
          @wheel="move($event, $event.deltaY < 0 ? 1 : -1)"
          @keydown.enter.prevent="($event.target as HTMLInputElement).blur()"
          @blur="take(typed)"
        />
        <span v-if="unit" class="quiet">{{ unit }}</span>
      </span>
    </div>
    <v-slider
      :model-value="value"
      :min="min"
      :max="max"
      :step="step"
      :aria-labelledby="id"
      :title="hint"
      @update:model-value="emit('change', $event)"
      @end="emit('change', $event, true)"
    />
  </div>
</template>

<style scoped>
.head {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  font-size: 13px;
}
.label {
  font-size: 13px;
  text-align: left;
}
.typed {
  display: flex;
  gap: 4px;
  align-items: baseline;
}
input {
  width: 44px;
  padding: 1px 4px;
  text-align: right;
  border: 1px solid rgba(var(--v-theme-on-surface), 0.3);
  border-radius: 3px;
  font-size: 13px;
}
</style>
