import { onBeforeUnmount, onMounted, ref, type Ref } from 'vue'

/** How large an element is, in CSS pixels, as long as it is there. */
export function useRoom(holder: Ref<HTMLElement | undefined>, before = { width: 0, height: 0 }) {
  const room = ref(before)
  let watching: ResizeObserver | undefined
  onMounted(() => {
    watching = new ResizeObserver(
      ([entry]) => (room.value = { width: entry!.contentRect.width, height: entry!.contentRect.height }),
    )
    watching.observe(holder.value!)
  })
  onBeforeUnmount(() => watching?.disconnect())
  return room
}
