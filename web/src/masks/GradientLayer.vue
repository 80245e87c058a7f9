<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Plan } from '../viewer/layer'
import type { View } from '../viewer/content'
import { usePlaces } from '../viewer/usePlaces'
import { handlesOf, outlinesOf, pulled, type Gradient, type Point } from './gradients'

/** A gradient of a mask laid over the picture, to be pulled by its handles; beside them the picture is moved as ever. */
const props = defineProps<{ plan: Plan; view: View; part: Gradient }>()
const emit = defineEmits<{ change: [part: Gradient, now: boolean] }>()

const holder = ref<HTMLElement>()
const { onScreen, toSource, onPane } = usePlaces(holder, props)
const handles = computed(() => handlesOf(props.part, props.plan.source))
const lines = computed(() =>
  outlinesOf(props.part, props.plan.source).map((line) => line.map((point) => onPane(point).join(',')).join(' ')),
)
const held = ref<string | null>(null)

function down(event: PointerEvent, name: string) {
  if (event.button !== 0) return
  ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
  held.value = name
}
function move(event: PointerEvent) {
  if (held.value) emit('change', pulled(props.part, held.value, toSource(onScreen(event)), props.plan.source), false)
}
function up() {
  if (held.value) emit('change', props.part, true)
  held.value = null
}
function pressed(event: KeyboardEvent, name: string, [x, y]: Point) {
  const step = (event.shiftKey ? 10 : 1) * (props.plan.source.width / 200)
  const ways: Record<string, Point> = {
    ArrowLeft: [-step, 0],
    ArrowRight: [step, 0],
    ArrowUp: [0, -step],
    ArrowDown: [0, step],
  }
  const way = ways[event.key]
  if (!way) return
  emit('change', pulled(props.part, name, [x + way[0], y + way[1]], props.plan.source), true)
  event.preventDefault()
  event.stopPropagation()
}
const styleOf = (point: Point) => {
  const [left, top] = onPane(point)
  return { left: `${left}px`, top: `${top}px` }
}
</script>

<template>
  <div ref="holder" class="gradient" aria-label="Gradient of the mask">
    <svg width="100%" height="100%" fill="none">
      <template v-for="(line, place) in lines" :key="place">
        <polyline :points="line" stroke="rgba(0,0,0,0.6)" stroke-width="3" />
        <polyline :points="line" stroke="#fff" stroke-width="1.2" :stroke-dasharray="place ? '5 5' : ''" />
      </template>
    </svg>
    <button
      v-for="handle in handles"
      :key="handle.name"
      type="button"
      class="handle"
      :class="{ whole: handle.name === 'whole' }"
      :style="styleOf(handle.at)"
      :aria-label="handle.title"
      :title="`${handle.title}; arrow keys move it`"
      @pointerdown.stop.prevent="down($event, handle.name)"
      @pointermove="move"
      @pointerup="up"
      @pointercancel="up"
      @keydown="pressed($event, handle.name, handle.at)"
    />
  </div>
</template>

<style scoped>
.gradient {
  position: absolute;
  inset: 0;
  overflow: hidden;
  pointer-events: none;
}
svg {
  display: block;
}
.handle {
  position: absolute;
  width: 15px;
  height: 15px;
  margin: -7.5px 0 0 -7.5px;
  border-radius: 50%;
  background: rgb(var(--v-theme-primary));
  border: 2px solid #fff;
  box-shadow: 0 0 0 1px rgba(0, 0, 0, 0.7);
  cursor: grab;
  touch-action: none;
  pointer-events: auto;
}
.handle.whole {
  border-radius: 2px;
  transform: rotate(45deg);
}
.handle:focus-visible {
  outline: 2px solid #fff;
  outline-offset: 3px;
}
</style>
