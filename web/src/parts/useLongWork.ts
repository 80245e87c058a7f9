import { useQuery } from '@tanstack/vue-query'
import { computed, onScopeDispose, ref } from 'vue'

/**
 * Something long that is done elsewhere for somebody who waits: begun, followed, called off.
 *
 * `followed` tells how far it is; it is asked again and again while the work goes on.
 */
export function useLongWork(
  name: string,
  followed: (signal: AbortSignal) => Promise<{ share?: number | null }>,
  everyMilliseconds = 200,
) {
  const goingOn = ref<AbortController | null>(null)
  const count = ref(0)
  const { data } = useQuery(
    computed(() => ({
      queryKey: [name, count.value],
      queryFn: ({ signal }: { signal: AbortSignal }) => followed(signal),
      enabled: goingOn.value !== null,
      refetchInterval: everyMilliseconds,
      gcTime: 0,
    })),
  )

  /** What the work gives; null if it was called off. */
  async function begin<Result>(work: (signal: AbortSignal) => Promise<Result>): Promise<Result | null> {
    const mine = (goingOn.value = new AbortController())
    count.value += 1
    try {
      return await work(mine.signal)
    } catch (fault) {
      if (mine.signal.aborted) return null
      throw fault
    } finally {
      if (goingOn.value === mine) goingOn.value = null
    }
  }
  function stop() {
    goingOn.value?.abort()
    goingOn.value = null
  }
  onScopeDispose(stop)
  /** How far it is, 0..1; null while nothing is done. */
  const share = computed(() => (goingOn.value ? (data.value?.share ?? 0) : null))
  return { share, begin, stop }
}
