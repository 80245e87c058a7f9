import { onBeforeUnmount, onMounted, ref, type Ref } from 'vue'

const writing = 'input, textarea, select, [contenteditable="true"]'
const pressed = 'button, a, [role="button"], [role="slider"]'

/**
 * The picture is pulled along by the middle button, or by the pointer while Space is held, whatever else the pointer does
 * there: painting, drawing, moving pins. `pull` is told by how many CSS pixels.
 */
export function useHandPan(area: Ref<HTMLElement | undefined>, pull: (x: number, y: number) => void) {
  /** Whether Space is held: the pointer is a hand. */
  const ready = ref(false)
  const pulling = ref(false)
  let last: { x: number; y: number } | null = null

  function down(event: KeyboardEvent) {
    const target = event.target instanceof HTMLElement ? event.target : null
    if (event.key !== ' ' || !area.value?.matches(':hover') || target?.closest(writing)) return
    // Over the picture it is the hand's, not that of the button pressed last.
    if (target?.closest(pressed)) target.blur()
    event.preventDefault()
    ready.value = true
  }
  function up(event: KeyboardEvent) {
    if (event.key === ' ') ready.value = false
  }
  function grasp(event: PointerEvent) {
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
  function letGo(event: PointerEvent) {
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
    area.value!.addEventListener('pointerdown', grasp, true)
    window.addEventListener('pointermove', moved, true)
    window.addEventListener('pointerup', letGo, true)
    window.addEventListener('keydown', down)
    window.addEventListener('keyup', up)
    window.addEventListener('blur', lost)
  })
  onBeforeUnmount(() => {
    window.removeEventListener('pointermove', moved, true)
    window.removeEventListener('pointerup', letGo, true)
    window.removeEventListener('keydown', down)
    window.removeEventListener('keyup', up)
    window.removeEventListener('blur', lost)
  })
  return { ready, pulling }
}
