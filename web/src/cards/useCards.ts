import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'

import { answer, server } from '../api/client'
import { useNotice } from '../parts/useNotice'
import { cardQueries, type Card } from './queries'

export type { Applied, Card } from './queries'

/** A person's cards, and what can be done with them. */
export function useCards() {
  const client = useQueryClient()
  const notice = useNotice()
  const { data: cards, isLoading } = useQuery(cardQueries.all())
  const refresh = () => client.invalidateQueries({ queryKey: cardQueries.all().queryKey })

  const save = useMutation({
    mutationFn: (card: { take_id: string; name: string; note: string }) =>
      answer(server.POST('/api/cards', { body: card })),
    onSuccess: (card) => {
      notice.say(`Card ${card.name} is saved.`)
      return refresh()
    },
    onError: notice.fault,
  })
  const alter = useMutation({
    mutationFn: ({ id, ...told }: { id: string; name?: string; note?: string }) =>
      answer(server.PATCH('/api/cards/{card_id}', { params: { path: { card_id: id } }, body: told })),
    onSuccess: refresh,
    onError: notice.fault,
  })
  const restore = useMutation({
    mutationFn: (id: string) =>
      answer(server.POST('/api/cards/{card_id}/restore', { params: { path: { card_id: id } } })),
    onSuccess: refresh,
    onError: notice.fault,
  })
  const remove = useMutation({
    mutationFn: (card: Card) =>
      answer(server.DELETE('/api/cards/{card_id}', { params: { path: { card_id: card.id } } })),
    onSuccess: (_, card) => {
      notice.say(`Card ${card.name} is put away; takes made from it stay.`, {
        label: 'Bring back',
        run: () => restore.mutate(card.id),
      })
      return refresh()
    },
    onError: notice.fault,
  })
  const bring = useMutation({
    mutationFn: async (file: File) =>
      answer(server.POST('/api/cards/file', { body: JSON.parse(await file.text().then(asJson)) })),
    onSuccess: (card) => {
      notice.say(`Card ${card.name} is here.`)
      return refresh()
    },
    onError: notice.fault,
  })
  const apply = useMutation({
    mutationFn: ({ id, pictures, strength }: { id: string; pictures: string[]; strength: number }) =>
      answer(
        server.POST('/api/cards/{card_id}/apply', { params: { path: { card_id: id } }, body: { pictures, strength } }),
      ),
    onSuccess: async (done, { id }) => {
      await Promise.all([
        client.invalidateQueries({ queryKey: ['pictures'] }),
        client.invalidateQueries({ queryKey: ['takes'] }),
      ])
      const name = cards.value?.find((card) => card.id === id)?.name
      const failed = done.filter((one) => one.problem)
      const made = `A take ${name} on ${done.length} ${done.length === 1 ? 'picture' : 'pictures'}.`
      notice.say(failed.length ? `${made} ${failed.length} cannot be done as it is: ${failed[0]!.problem}` : made, {
        label: 'Discard them',
        run: () =>
          void Promise.all(
            done.map((one) =>
              answer(server.DELETE('/api/takes/{take_id}', { params: { path: { take_id: one.take_id } } })),
            ),
          ).then(() =>
            Promise.all([
              client.invalidateQueries({ queryKey: ['pictures'] }),
              client.invalidateQueries({ queryKey: ['takes'] }),
            ]),
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
