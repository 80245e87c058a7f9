<script setup lang="ts">
import { computed, ref } from 'vue'

import { around, ofDisc, onDisc, patch, type Colour, type Tint } from './hues'

/** One disc of hues with a mark for dark, middle and light tones; further out is more. */
const props = defineProps<{ step: Colour }>()
const emit = defineEmits<{ change: [changed: Partial<Colour>, now?: boolean] }>()

const tones = [
  { name: 'shadows', letter: 'd', title: 'Dark tones' },
  { name: 'middle', letter: 'm', title: 'Middle tones' },
  { name: 'lights', letter: 'l', title: 'Light tones' },
] as const
type Name = (typeof tones)[number]['name']
const tintOf = (name: Name): Tint => props.step[name] ?? { hue: 60, amount: 0 }

const disc = ref<HTMLElement>()
const dragged = ref<Name | null>(null)
const rim = computed(() => {
  // CSS starts at the top and goes clockwise; hues start at the right and go the other way.
  const stops = Array.from({ length: 25 }, (_, index) => patch(90 - index * 15, 0.13, 0.66))
  return `radial-gradient(circle, #777 0, transparent 72%), conic-gradient(${stops.join(', ')})`
})
/** Marks that do nothing stand beside each other in the middle. */
function styleOf(name: Name, place: number) {
  const [x, y] = onDisc(tintOf(name))
  const aside = tintOf(name).amount ? 0 : (place - 1) * 19
  return { left: `calc(${50 + 50 * x}% + ${aside}px)`, top: `${50 - 50 * y}%` }
}
function down(event: PointerEvent, name: Name) {
  if (event.button !== 0) return
  ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
  dragged.value = name
}
function move(event: PointerEvent) {
  if (!dragged.value) return
  const box = disc.value!.getBoundingClientRect()
  const x = (2 * (event.clientX - box.left)) / box.width - 1
  const y = 1 - (2 * (event.clientY - box.top)) / box.height
  emit('change', { [dragged.value]: ofDisc(x, y) })
}
function up() {
  if (dragged.value) emit('change', { [dragged.value]: tintOf(dragged.value) }, true)
  dragged.value = null
}
function pressed(event: KeyboardEvent, name: Name) {
  const { hue, amount } = tintOf(name)
  const step = event.shiftKey ? 10 : 1
  const moved: Record<string, Tint> = {
    ArrowLeft: { hue: around(hue + step), amount },
    ArrowRight: { hue: around(hue - step), amount },
    ArrowUp: { hue, amount: Math.min(100, amount + step) },
    ArrowDown: { hue, amount: Math.max(0, amount - step) },
    Backspace: { hue, amount: 0 },
  }
  if (!moved[event.key]) return
  emit('change', { [name]: moved[event.key] }, true)
  event.preventDefault()
  event.stopPropagation()
}
</script>

<template>
  <div class="tints">
    <div ref="disc" class="disc" :style="{ background: rim }">
      <button
        v-for="(tone, place) in tones"
        :key="tone.name"
        type="button"
        class="mark"
        :style="styleOf(tone.name, place)"
        :aria-label="`${tone.title}: hue ${Math.round(tintOf(tone.name).hue)}°, ${Math.round(tintOf(tone.name).amount)} %`"
        :title="`${tone.title}: drag it; arrow keys turn it and move it out`"
        @pointerdown.prevent="down($event, tone.name)"
        @pointermove="move"
        @pointerup="up"
        @pointercancel="up"
        @dblclick="emit('change', { [tone.name]: { hue: tintOf(tone.name).hue, amount: 0 } }, true)"
        @keydown="pressed($event, tone.name)"
      >
        {{ tone.letter }}
      </button>
    </div>
    <ul class="small">
      <li v-for="tone in tones" :key="tone.name">
        <span class="quiet">{{ tone.title }}</span>
        <span v-if="tintOf(tone.name).amount" class="told">
          <span class="patch" :style="{ background: patch(tintOf(tone.name).hue) }" />
          {{ Math.round(tintOf(tone.name).amount) }} %
        </span>
        <span v-else class="quiet">none</span>
      </li>
    </ul>
  </div>
</template>

<style scoped>
.tints {
  display: flex;
  gap: 10px;
  align-items: center;
}
.disc {
  position: relative;
  flex: 0 0 128px;
  height: 128px;
  margin: 8px;
  border-radius: 50%;
}
.mark {
  position: absolute;
  width: 18px;
  height: 18px;
  margin: -9px 0 0 -9px;
  border-radius: 50%;
  background: #1c1c1c;
  color: #fff;
  border: 1.5px solid #fff;
  font-size: 12px;
  line-height: 14px;
  text-align: center;
  cursor: grab;
  touch-action: none;
}
.mark:focus-visible {
  outline: 2px solid rgb(var(--v-theme-primary));
  outline-offset: 2px;
}
ul {
  list-style: none;
  padding: 0;
  display: grid;
  gap: 8px;
}
li {
  display: grid;
}
.told {
  display: flex;
  align-items: center;
  gap: 6px;
}
.patch {
  width: 12px;
  height: 12px;
  border-radius: 2px;
}
</style>
