import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'

import { api, type Schemas } from '../api/client'
import { useNotice } from '../shell/useNotice'

export type Card = Schemas['CardOut']
export type Applied = Schemas['Applied']

/** A person's cards, and what can be done with them. */
export function useCards() {
  const client = useQueryClient()
  const notice = useNotice()
  const { data: cards, isLoading } = useQuery({ queryKey: ['cards'], queryFn: ({ signal }) => api.get<Card[]>('/cards', signal) })
  const refresh = () => client.invalidateQueries({ queryKey: ['cards'] })

  const save = useMutation({
    mutationFn: (card: { take_id: string; name: string; note: string }) => api.post<Card>('/cards', card),
    onSuccess: (card) => {
      notice.say(`Card ${card.name} is saved.`)
      return refresh()
    },
    onError: notice.fault,
  })
  const alter = useMutation({
    mutationFn: ({ id, ...told }: { id: string; name?: string; note?: string }) => api.patch<Card>(`/cards/${id}`, told),
    onSuccess: refresh,
    onError: notice.fault,
  })
  const restore = useMutation({ mutationFn: (id: string) => api.post(`/cards/${id}/restore`), onSuccess: refresh, onError: notice.fault })
  const remove = useMutation({
    mutationFn: (card: Card) => api.delete(`/cards/${card.id}`),
    onSuccess: (_, card) => {
      notice.say(`Card ${card.name} is put away; takes made from it stay.`, { label: 'Bring back', run: () => restore.mutate(card.id) })
      return refresh()
    },
    onError: notice.fault,
  })
  const bring = useMutation({
    mutationFn: async (file: File) => api.post<Card>('/cards/file', JSON.parse(await file.text().then(asJson))),
    onSuccess: (card) => {
      notice.say(`Card ${card.name} is here.`)
      return refresh()
    },
    onError: notice.fault,
  })
  const apply = useMutation({
    mutationFn: ({ id, pictures, strength }: { id: string; pictures: string[]; strength: number }) =>
      api.post<Applied[]>(`/cards/${id}/apply`, { pictures, strength }),
    onSuccess: async (done, { id }) => {
      await Promise.all([client.invalidateQueries({ queryKey: ['pictures'] }), client.invalidateQueries({ queryKey: ['takes'] })])
      const name = cards.value?.find((card) => card.id === id)?.name
      const failed = done.filter((one) => one.problem)
      const made = `A take ${name} on ${done.length} ${done.length === 1 ? 'picture' : 'pictures'}.`
      notice.say(failed.length ? `${made} ${failed.length} cannot be done as it is: ${failed[0]!.problem}` : made, {
        label: 'Discard them',
        run: () =>
          void Promise.all(done.map((one) => api.delete(`/takes/${one.take_id}`))).then(() =>
            Promise.all([client.invalidateQueries({ queryKey: ['pictures'] }), client.invalidateQueries({ queryKey: ['takes'] })]),
          ),
      })
    },
    onError: notice.fault,
  })

  return { cards: computed(() => cards.value ?? []), isLoading, save, alter, remove, bring, apply }
}

/** Text that is not JSON goes to the server as a string, which says what is wrong with it. */
function asJson(text: string): string {
  try {
    JSON.parse(text)
    return text
  } catch {
    return JSON.stringify(text)
  }
}
