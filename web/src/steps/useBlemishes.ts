import { useQuery } from '@tanstack/vue-query'
import { computed, onScopeDispose, ref } from 'vue'

import { answer, server } from '../api/client'
import { useNotice } from '../parts/useNotice'
import { dismiss, patching } from './patches'

/** A look for dust, scratches and creases in what a step is given: begun, followed, called off. */
export function useBlemishes() {
  const notice = useNotice()
  const goingOn = ref<AbortController | null>(null)
  const path = ref({ take_id: '', index: 0 })
  const count = ref(0)
  const { data } = useQuery(
    computed(() => ({
      queryKey: ['blemishes', path.value, count.value],
      queryFn: ({ signal }: { signal: AbortSignal }) =>
        answer(server.GET('/api/takes/{take_id}/steps/{index}/blemishes', { params: { path: path.value }, signal })),
      enabled: goingOn.value !== null,
      refetchInterval: 250,
      gcTime: 0,
    })),
  )

  async function find(takeId: string, index: number) {
    const mine = (goingOn.value = new AbortController())
    path.value = { take_id: takeId, index }
    count.value += 1
    dismiss()
    try {
      const { signal } = mine
      const found = await answer(
        server.POST('/api/takes/{take_id}/steps/{index}/blemishes', { params: { path: path.value }, signal }),
      )
      if (found.length) patching.found = found
      else notice.say('No dust, scratch or crease was found.')
    } catch (fault) {
      if (!mine.signal.aborted) notice.fault(fault)
    } finally {
      if (goingOn.value === mine) goingOn.value = null
    }
  }
  function stop() {
    goingOn.value?.abort()
    goingOn.value = null
  }
  onScopeDispose(stop)
  /** How far it is, 0..1; null while nothing is looked for. */
  const share = computed(() => (goingOn.value ? (data.value?.share ?? 0) : null))
  return { share, find, stop }
}
