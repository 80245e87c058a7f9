import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'

import { answer, server } from '../api/client'
import { useNotice } from '../parts/useNotice'
import { boardQueries, type Spot } from './queries'

export type { Spot } from './queries'
export type Mark = 'good' | 'bad' | ''
interface Place {
  x: number
  y: number
}

/** The check spots of a picture: where each lies in every take, and what was thought of it there. */
export function useSpots(pictureId: MaybeRefOrGetter<string>) {
  const client = useQueryClient()
  const notice = useNotice()
  const query = computed(() => boardQueries.spots(toValue(pictureId)))
  const { data: spots } = useQuery(query)
  const refresh = () => client.invalidateQueries({ queryKey: query.value.queryKey })
  /** A change that the server answers with all spots. */
  function change<T>(send: (wanted: T) => Promise<Spot[]>) {
    return useMutation({
      mutationFn: send,
      onSuccess: (now) => client.setQueryData(query.value.queryKey, now),
      onError: notice.fault,
    })
  }

  const restore = change((id: string) =>
    answer(server.POST('/api/spots/{spot_id}/restore', { params: { path: { spot_id: id } } })),
  )
  const remove = useMutation({
    mutationFn: (spot: Spot) =>
      answer(server.DELETE('/api/spots/{spot_id}', { params: { path: { spot_id: spot.id } } })),
    onSuccess: (_, spot) => {
      client.setQueryData(query.value.queryKey, (now) => now?.filter((one) => one.id !== spot.id))
      notice.say(`Check spot ${spot.name} is off.`, { label: 'Put back', run: () => restore.mutate(spot.id) })
    },
    onError: notice.fault,
  })
  const propose = useMutation({
    mutationFn: () =>
      answer(
        server.POST('/api/pictures/{picture_id}/spots/propose', {
          params: { path: { picture_id: toValue(pictureId) } },
        }),
      ),
    onSuccess: async (made) => {
      await refresh()
      if (!made.length) notice.say('Every place worth proposing has a spot already.')
      else
        notice.say(`${made.length} check spots proposed; their reasons stand in the column heads.`, {
          label: 'Take off',
          run: () =>
            void Promise.all(
              made.map((id) => answer(server.DELETE('/api/spots/{spot_id}', { params: { path: { spot_id: id } } }))),
            ).then(refresh),
        })
    },
    onError: notice.fault,
  })

  return {
    spots: computed(() => spots.value ?? []),
    known: computed(() => spots.value !== undefined),
    pin: change(({ name = '', ...at }: Place & { take_id: string; name?: string }) =>
      answer(
        server.POST('/api/pictures/{picture_id}/spots', {
          params: { path: { picture_id: toValue(pictureId) } },
          body: { ...at, name },
        }),
      ),
    ),
    alter: change(({ id, ...told }: Partial<Place> & { id: string; take_id?: string; name?: string }) =>
      answer(server.PATCH('/api/spots/{spot_id}', { params: { path: { spot_id: id } }, body: told })),
    ),
    order: change((ids: string[]) =>
      answer(
        server.POST('/api/pictures/{picture_id}/spots/order', {
          params: { path: { picture_id: toValue(pictureId) } },
          body: { ids },
        }),
      ),
    ),
    mark: change(({ take, spot, value }: { take: string; spot: string; value: Mark }) =>
      answer(
        server.PUT('/api/takes/{take_id}/marks/{spot_id}', {
          params: { path: { take_id: take, spot_id: spot } },
          body: { value },
        }),
      ),
    ),
    remove,
    propose,
    refresh,
  }
}
