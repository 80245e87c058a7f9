import { computed, type Ref } from 'vue'

import { useRoom } from '../parts/useRoom'
import type { View } from './content'
import type { Size } from './layer'

/** How far outside of the view a pin still shows, CSS px. */
const around = 12

/** Where places of a result, in its pixels, lie in an element that lies over the view. */
export function usePins(holder: Ref<HTMLElement | undefined>, props: Readonly<{ reference: Size; view: View }>) {
  const room = useRoom(holder)
  /** CSS pixels of a pixel. */
  const scale = computed(() => props.view.scale / (window.devicePixelRatio || 1))
  /** From the element's left and top, CSS px; null outside of it. */
  function at(place: { x: number; y: number }): { left: number; top: number } | null {
    const { width } = props.reference
    const left = room.value.width / 2 + (place.x - props.view.x * width) * scale.value
    const top = room.value.height / 2 + (place.y - props.view.y * width) * scale.value
    const inside =
      left > -around && top > -around && left < room.value.width + around && top < room.value.height + around
    return inside ? { left, top } : null
  }
  return { scale, at }
}
