import { useQuery } from '@tanstack/vue-query'
import { computed, ref, toValue, type MaybeRefOrGetter } from 'vue'

import { answer, server } from '../api/client'
import type { PartOf } from './parts'

/** A look for something in a whole picture: begun, followed, called off. */
export function useSearch(pictureId: MaybeRefOrGetter<string>) {
  const goingOn = ref<AbortController | null>(null)
  const count = ref(0)
  const { data } = useQuery(
    computed(() => ({
      queryKey: ['search', toValue(pictureId), count.value],
      queryFn: ({ signal }: { signal: AbortSignal }) =>
        answer(
          server.GET('/api/pictures/{picture_id}/found', {
            params: { path: { picture_id: toValue(pictureId) } },
            signal,
          }),
        ),
      enabled: goingOn.value !== null,
      refetchInterval: 200,
      gcTime: 0,
    })),
  )

  /** The plane of what is sought; null if that was called off. */
  async function look(sought: PartOf<'found'>): Promise<string | null> {
    const mine = (goingOn.value = new AbortController())
    count.value += 1
    try {
      const found = await answer(
        server.POST('/api/pictures/{picture_id}/found', {
          params: { path: { picture_id: toValue(pictureId) } },
          body: { ...sought, plane: '' },
          signal: mine.signal,
        }),
      )
      return found.plane
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
  /** How far it is, 0..1; null while nothing is looked for. */
  const share = computed(() => (goingOn.value ? (data.value?.share ?? 0) : null))
  return { share, look, stop }
}
