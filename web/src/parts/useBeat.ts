import { onScopeDispose, ref } from 'vue'

/** Two things by turns, for as long as it is on. */
export function useBeat(milliseconds: number) {
  const on = ref(false)
  /** Whether it is the turn of the second. */
  const second = ref(false)
  let beat: ReturnType<typeof setInterval> | undefined

  function set(now: boolean) {
    on.value = now
    clearInterval(beat)
    second.value = false
    if (now) beat = setInterval(() => (second.value = !second.value), milliseconds)
  }
  onScopeDispose(() => clearInterval(beat))
  return { on, second, set, toggle: () => set(!on.value) }
}
