import { computed, type Ref } from 'vue'

import type { Plan } from './layer'
import type { View } from './content'
import { useRoom } from '../parts/useRoom'
import { fromSource, sourceScale as scaleOf, toSource as inSource, type Point } from './mapping'

export type { Point } from './mapping'

/** Places on a layer that lies over a pane, and where in the source they are. */
export function usePlaces(holder: Ref<HTMLElement | undefined>, props: { plan: Plan; view: View }) {
  const room = useRoom(holder)

  /** CSS pixels for one of the result. */
  const screenScale = computed(() => props.view.scale / (window.devicePixelRatio || 1))
  /** Source pixels for one of the result. */
  const sourceScale = computed(() => scaleOf(props.plan.to_source))

  function onScreen(event: MouseEvent): Point {
    const box = holder.value!.getBoundingClientRect()
    return [event.clientX - box.left, event.clientY - box.top]
  }
  function toSource([left, top]: Point): Point {
    const { width } = props.plan.size
    const x = props.view.x * width + (left - room.value.width / 2) / screenScale.value
    const y = props.view.y * width + (top - room.value.height / 2) / screenScale.value
    const [across, down] = inSource(props.plan.to_source, [x, y])
    const round = (value: number) => Math.round(value * 100) / 100
    return [round(across), round(down)]
  }
  /** Where a place of the source is seen, from the upper left corner of the pane. */
  function onPane(point: Point): Point {
    return seen(fromSource(props.plan.to_source, point))
  }
  /** Where a pixel of the result is seen. */
  function seen([x, y]: Point): Point {
    const across = x - props.view.x * props.plan.size.width
    const down = y - props.view.y * props.plan.size.width
    return [room.value.width / 2 + across * screenScale.value, room.value.height / 2 + down * screenScale.value]
  }
  return { seen, onScreen, toSource, onPane, screenScale, sourceScale }
}
