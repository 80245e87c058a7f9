import { onScopeDispose, ref } from 'vue'

/** The time in milliseconds, told anew every second. */
export function useNow() {
  const now = ref(Date.now())
  const clock = setInterval(() => (now.value = Date.now()), 1000)
  onScopeDispose(() => clearInterval(clock))
  return now
}
