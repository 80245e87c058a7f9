import { onBeforeUnmount, onMounted, ref, type Ref } from 'vue'

/**
 * How large an element is, in CSS pixels, as long as it is there.
 *
 * It is measured at once: an observer tells only after the next frame, and who clicks before that would click elsewhere.
 */
export function useRoom(holder: Ref<HTMLElement | undefined>) {
  const room = ref({ width: 0, height: 0 })
  let watching: ResizeObserver | undefined
  onMounted(() => {
    const { clientWidth: width, clientHeight: height } = holder.value!
    room.value = { width, height }
    watching = new ResizeObserver(
      ([entry]) => (room.value = { width: entry!.contentRect.width, height: entry!.contentRect.height }),
    )
    watching.observe(holder.value!)
  })
  onBeforeUnmount(() => watching?.disconnect())
  return room
}
