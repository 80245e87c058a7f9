import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, toValue, watch, type MaybeRefOrGetter } from 'vue'

import { answer, server } from '../api/client'
import { useNotice } from '../parts/useNotice'
import { readingQueries } from '../readings/queries'
import { rehearsalQueries, type RehearsalOut } from './queries'

const isUnderWay = (one?: RehearsalOut) => ['queued', 'running'].includes(one?.state ?? '')

/** The rehearsal on a picture: asked for, followed, called off. What is suggested follows from it. */
export function useRehearsal(pictureId: MaybeRefOrGetter<string>) {
  const client = useQueryClient()
  const notice = useNotice()
  const path = computed(() => ({ params: { path: { picture_id: toValue(pictureId) } } }))
  const query = computed(() => rehearsalQueries.one(toValue(pictureId)))
  const { data: rehearsal } = useQuery(
    computed(() => ({
      ...query.value,
      refetchInterval: ({ state }: { state: { data?: RehearsalOut } }) => (isUnderWay(state.data) ? 500 : false),
    })),
  )
  const ask = useMutation({
    mutationFn: () => answer(server.POST('/api/pictures/{picture_id}/rehearsal', path.value)),
    onSuccess: (now) => client.setQueryData(query.value.queryKey, now),
    onError: notice.fault,
  })
  const callOff = useMutation({
    mutationFn: () => answer(server.DELETE('/api/pictures/{picture_id}/rehearsal', path.value)),
    onSuccess: () => client.setQueryData(query.value.queryKey, { state: 'none', progress: 0, message: '' }),
    onError: notice.fault,
  })
  const suggestion = () => client.invalidateQueries({ queryKey: readingQueries.one(toValue(pictureId)).queryKey })
  watch(
    () => rehearsal.value?.state,
    (now, before) => {
      if (before && now === 'done') void suggestion()
    },
  )
  return { rehearsal, ask, callOff, underWay: computed(() => isUnderWay(rehearsal.value)) }
}
