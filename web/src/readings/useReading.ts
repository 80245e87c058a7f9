import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, toValue, watch, type MaybeRefOrGetter } from 'vue'

import { answer, server } from '../api/client'
import { useNotice } from '../parts/useNotice'
import { readingQueries, type ReadingOut } from './queries'

export type { ReadingOut } from './queries'

/** The reading of a picture and the start suggested from it; asked for where there is none yet. */
export function useReading(pictureId: MaybeRefOrGetter<string>) {
  const client = useQueryClient()
  const notice = useNotice()
  const query = computed(() => readingQueries.one(toValue(pictureId)))
  const { data: read } = useQuery(
    computed(() => ({
      ...query.value,
      refetchInterval: ({ state }: { state: { data?: ReadingOut } }) =>
        ['queued', 'running'].includes(state.data?.state ?? '') ? 700 : false,
    })),
  )
  const ask = useMutation({
    mutationFn: () =>
      answer(
        server.POST('/api/pictures/{picture_id}/reading', { params: { path: { picture_id: toValue(pictureId) } } }),
      ),
    onSuccess: (now) => client.setQueryData(query.value.queryKey, now),
    onError: notice.fault,
  })
  watch(
    () => read.value?.state,
    (now) => {
      if (now === 'none' && !ask.isPending.value) ask.mutate()
      if (now === 'done') void client.invalidateQueries({ queryKey: ['pictures'] })
    },
    { immediate: true },
  )

  return { read, ask }
}
