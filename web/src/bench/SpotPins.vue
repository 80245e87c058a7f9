<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Schemas } from '../api/client'
import type { Spot } from '../board/useSpots'
import type { View } from '../viewer/content'
import { usePins } from '../viewer/usePins'

const props = defineProps<{
  spots: Spot[]
  takeId: string
  reference: Schemas['SizeOut']
  view: View
  /** Shown, but not to be moved here. */
  still?: boolean
}>()
const emit = defineEmits<{ move: [spot: Spot, place: { x: number; y: number }]; remove: [spot: Spot] }>()

const holder = ref<HTMLElement>()
const { scale, at } = usePins(holder, props)
const dragged = ref<{ id: string; x: number; y: number } | null>(null)

const pins = computed(() =>
  props.spots.flatMap((spot, index) => {
    const place = dragged.value?.id === spot.id ? dragged.value : spot.places[props.takeId]
    if (!place) return []
    const where = at(place)
    return where ? [{ spot, number: index + 1, ...where }] : []
  }),
)

function drag(event: PointerEvent, spot: Spot) {
  if (props.still || event.button !== 0) return
  const pin = event.currentTarget as HTMLElement
  pin.setPointerCapture(event.pointerId)
  const from = spot.places[props.takeId]!
  const start = { x: event.clientX, y: event.clientY }
  const move = (now: PointerEvent) => {
    const x = from.x + (now.clientX - start.x) / scale.value
    const y = from.y + (now.clientY - start.y) / scale.value
    dragged.value = {
      id: spot.id,
      x: Math.min(props.reference.width - 0.5, Math.max(0.5, x)),
      y: Math.min(props.reference.height - 0.5, Math.max(0.5, y)),
    }
  }
  const end = () => {
    pin.removeEventListener('pointermove', move)
    if (dragged.value) emit('move', spot, { x: dragged.value.x, y: dragged.value.y })
    dragged.value = null
  }
  pin.addEventListener('pointermove', move)
  pin.addEventListener('pointerup', end, { once: true })
}
</script>

<template>
  <div ref="holder" class="pins">
    <button
      v-for="pin in pins"
      :key="pin.spot.id"
      class="pin"
      :class="{ still }"
      :style="{ left: `${pin.left}px`, top: `${pin.top}px` }"
      :aria-label="`Check spot ${pin.number}, ${pin.spot.name}`"
      :title="`${pin.number} ${pin.spot.name}${pin.spot.reason ? `: ${pin.spot.reason}` : ''}. Drag to move, Del to take off.`"
      @pointerdown="drag($event, pin.spot)"
      @keydown.delete.stop="emit('remove', pin.spot)"
    >
      <span class="number">{{ pin.number }}</span>
    </button>
  </div>
</template>

<style scoped>
.pins {
  position: absolute;
  inset: 0;
  overflow: hidden;
  pointer-events: none;
}
/* A ring about the place itself, its number beside it, so that the pin hides nothing. */
.pin {
  position: absolute;
  width: 26px;
  height: 26px;
  margin: -13px;
  border: 1.5px solid #fff;
  border-radius: 50%;
  box-shadow:
    0 0 0 1px rgba(0, 0, 0, 0.65),
    inset 0 0 0 1px rgba(0, 0, 0, 0.5);
  pointer-events: auto;
  cursor: move;
  touch-action: none;
}
.still {
  pointer-events: none;
}
.number {
  position: absolute;
  left: 22px;
  top: -9px;
  min-width: 18px;
  padding: 0 4px;
  font-size: 12px;
  font-weight: 600;
  line-height: 17px;
  text-align: center;
  color: #fff;
  background: rgba(0, 0, 0, 0.72);
  border-radius: 9px;
}
</style>
