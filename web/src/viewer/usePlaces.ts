import { computed, type Ref } from 'vue'

import type { Plan } from './layer'
import type { View } from './content'
import { useRoom } from '../parts/useRoom'

export type Point = [number, number]

/** Places on a layer that lies over a pane, and where in the source they are. */
export function usePlaces(holder: Ref<HTMLElement | undefined>, props: { plan: Plan; view: View }) {
  const room = useRoom(holder)

  /** CSS pixels for one of the result. */
  const screenScale = computed(() => props.view.scale / (window.devicePixelRatio || 1))
  /** Source pixels for one of the result. */
  const sourceScale = computed(() => {
    const [a, b, , d, e] = props.plan.to_source as [number, number, number, number, number, number]
    return Math.sqrt(Math.abs(a * e - b * d))
  })

  function onScreen(event: MouseEvent): Point {
    const box = holder.value!.getBoundingClientRect()
    return [event.clientX - box.left, event.clientY - box.top]
  }
  function toSource([left, top]: Point): Point {
    const { width } = props.plan.size
    const x = props.view.x * width + (left - room.value.width / 2) / screenScale.value
    const y = props.view.y * width + (top - room.value.height / 2) / screenScale.value
    const [a, b, c, d, e, f] = props.plan.to_source as [number, number, number, number, number, number]
    const round = (value: number) => Math.round(value * 100) / 100
    return [round(a * x + b * y + c), round(d * x + e * y + f)]
  }
  /** Where a place of the source is seen, from the upper left corner of the pane. */
  function onPane([x, y]: Point): Point {
    const [a, b, c, d, e, f] = props.plan.to_source as [number, number, number, number, number, number]
    const area = a * e - b * d
    const across = (e * (x - c) - b * (y - f)) / area - props.view.x * props.plan.size.width
    const down = (a * (y - f) - d * (x - c)) / area - props.view.y * props.plan.size.width
    return [room.value.width / 2 + across * screenScale.value, room.value.height / 2 + down * screenScale.value]
  }
  return { onScreen, toSource, onPane, screenScale, sourceScale }
}
