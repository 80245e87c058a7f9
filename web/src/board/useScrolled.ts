import { onBeforeUnmount, ref, watch, type Ref } from 'vue'

import type { Scrolled } from './rows'

/** What of a box that scrolls is seen; measured when its size changes, and when `measure` is called. */
export function useScrolled(box: Ref<HTMLElement | undefined>) {
  const scrolled = ref<Scrolled>({ top: 0, left: 0, width: 1200, height: 300 })
  function measure() {
    const now = box.value
    if (now)
      scrolled.value = { top: now.scrollTop, left: now.scrollLeft, width: now.clientWidth, height: now.clientHeight }
  }
  let watching: ResizeObserver | undefined
  watch(box, (now) => {
    watching?.disconnect()
    if (!now) return
    watching = new ResizeObserver(measure)
    watching.observe(now)
  })
  onBeforeUnmount(() => watching?.disconnect())
  return { scrolled, measure }
}
