import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, toValue, watch, type MaybeRefOrGetter } from 'vue'

import { api, type Schemas } from '../api/client'
import { useNotice } from '../shell/useNotice'

export type ReadingOut = Schemas['ReadingOut']

/** The reading of a picture and the start suggested from it; asked for where there is none yet. */
export function useReading(pictureId: MaybeRefOrGetter<string>) {
  const client = useQueryClient()
  const notice = useNotice()
  const key = computed(() => ['reading', toValue(pictureId)])
  const { data: read } = useQuery({
    queryKey: key,
    queryFn: ({ signal }) => api.get<ReadingOut>(`/pictures/${toValue(pictureId)}/reading`, signal),
    refetchInterval: (query) => (['queued', 'running'].includes(query.state.data?.state ?? '') ? 700 : false),
  })
  const ask = useMutation({
    mutationFn: () => api.post<ReadingOut>(`/pictures/${toValue(pictureId)}/reading`),
    onSuccess: (now) => client.setQueryData(key.value, now),
    onError: notice.fault,
  })
  watch(() => read.value?.state, (now) => {
    if (now === 'none' && !ask.isPending.value) ask.mutate()
    if (now === 'done') void client.invalidateQueries({ queryKey: ['pictures'] })
  }, { immediate: true })

  return { read, ask }
}
