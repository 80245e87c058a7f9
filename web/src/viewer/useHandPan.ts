import { onBeforeUnmount, onMounted, ref, type Ref } from 'vue'

const onControl = 'button, a, input, textarea, select, [role="button"], [role="slider"], [contenteditable="true"]'

/**
 * The picture is pulled along by the middle button, or by the pointer while Space is held, whatever else the pointer does
 * there: painting, drawing, moving pins. `pull` is told by how many CSS pixels.
 */
export function useHandPan(area: Ref<HTMLElement | undefined>, pull: (x: number, y: number) => void) {
  /** Whether Space is held: the pointer is a hand. */
  const ready = ref(false)
  const pulling = ref(false)
  let last: { x: number; y: number } | null = null

  function pressed(event: KeyboardEvent) {
    if (event.key !== ' ' || !area.value?.matches(':hover')) return
    if (event.target instanceof Element && event.target.closest(onControl)) (event.target as HTMLElement).blur?.()
    event.preventDefault()
    ready.value = true
  }
  function released(event: KeyboardEvent) {
    if (event.key === ' ') ready.value = false
  }
  function down(event: PointerEvent) {
    if (event.button !== 1 && !(event.button === 0 && ready.value)) return
    event.preventDefault()
    event.stopPropagation()
    pulling.value = true
    last = { x: event.clientX, y: event.clientY }
  }
  function moved(event: PointerEvent) {
    if (!last) return
    event.stopPropagation()
    pull(event.clientX - last.x, event.clientY - last.y)
    last = { x: event.clientX, y: event.clientY }
  }
  function up(event: PointerEvent) {
    if (last) event.stopPropagation()
    last = null
    pulling.value = false
  }
  function lost() {
    ready.value = false
    last = null
    pulling.value = false
  }

  onMounted(() => {
    area.value!.addEventListener('pointerdown', down, true)
    window.addEventListener('pointermove', moved, true)
    window.addEventListener('pointerup', up, true)
    window.addEventListener('keydown', pressed)
    window.addEventListener('keyup', released)
    window.addEventListener('blur', lost)
  })
  onBeforeUnmount(() => {
    window.removeEventListener('pointermove', moved, true)
    window.removeEventListener('pointerup', up, true)
    window.removeEventListener('keydown', pressed)
    window.removeEventListener('keyup', released)
    window.removeEventListener('blur', lost)
  })
  return { ready, pulling }
}
