import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'

import { api, type Schemas } from '../api/client'
import { useNotice } from '../shell/useNotice'

export type Spot = Schemas['SpotOut']
export type Mark = 'good' | 'bad' | ''
interface Place {
  x: number
  y: number
}

/** The check spots of a picture: where each lies in every take, and what was thought of it there. */
export function useSpots(pictureId: MaybeRefOrGetter<string>) {
  const client = useQueryClient()
  const notice = useNotice()
  const key = computed(() => ['spots', toValue(pictureId)])
  const { data: spots } = useQuery({
    queryKey: key,
    queryFn: ({ signal }) => api.get<Spot[]>(`/pictures/${toValue(pictureId)}/spots`, signal),
  })
  const refresh = () => client.invalidateQueries({ queryKey: key.value })
  /** A change that the server answers with all spots. */
  function change<T>(send: (wanted: T) => Promise<Spot[]>) {
    return useMutation({ mutationFn: send, onSuccess: (now) => client.setQueryData(key.value, now), onError: notice.fault })
  }

  const restore = change((id: string) => api.post<Spot[]>(`/spots/${id}/restore`))
  const remove = useMutation({
    mutationFn: (spot: Spot) => api.delete(`/spots/${spot.id}`),
    onSuccess: (_, spot) => {
      client.setQueryData<Spot[]>(key.value, (now) => now?.filter((one) => one.id !== spot.id))
      notice.say(`Check spot ${spot.name} is off.`, { label: 'Put back', run: () => restore.mutate(spot.id) })
    },
    onError: notice.fault,
  })
  const propose = useMutation({
    mutationFn: () => api.post<string[]>(`/pictures/${toValue(pictureId)}/spots/propose`),
    onSuccess: async (made) => {
      await refresh()
      if (!made.length) notice.say('Every place worth proposing has a spot already.')
      else
        notice.say(`${made.length} check spots proposed; their reasons stand in the column heads.`, {
          label: 'Take off',
          run: () => void Promise.all(made.map((id) => api.delete(`/spots/${id}`))).then(refresh),
        })
    },
    onError: notice.fault,
  })

  return {
    spots: computed(() => spots.value ?? []),
    known: computed(() => spots.value !== undefined),
    pin: change((at: Place & { take_id: string; name?: string }) => api.post<Spot[]>(`/pictures/${toValue(pictureId)}/spots`, at)),
    alter: change(({ id, ...told }: Partial<Place> & { id: string; take_id?: string; name?: string }) => api.patch<Spot[]>(`/spots/${id}`, told)),
    order: change((ids: string[]) => api.post<Spot[]>(`/pictures/${toValue(pictureId)}/spots/order`, { ids })),
    mark: change(({ take, spot, value }: { take: string; spot: string; value: Mark }) => api.put<Spot[]>(`/takes/${take}/marks/${spot}`, { value })),
    remove,
    propose,
    refresh,
  }
}
