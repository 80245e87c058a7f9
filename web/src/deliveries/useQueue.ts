import { computed, toValue, type MaybeRefOrGetter } from 'vue'
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'

import { answer, server } from '../api/client'
import { deliveryQueries, type Delivery } from './queries'
import { secondsLeft } from './useDeliveries'

export type { Batch } from './queries'
export type QueueChange = 'pause' | 'resume' | 'cancel'

/** What is being made and what waits, the first to be made first; kept live by the server's events. */
export function useQueue() {
  const client = useQueryClient()
  const { data: queue, error } = useQuery(deliveryQueries.queue())
  /** Changes are sent one after another, and what is shown is the server's word once the last of them is answered. */
  const inTurn = {
    mutationKey: ['queue'],
    scope: { id: 'queue' },
    onSettled: () => {
      if (client.isMutating({ mutationKey: ['queue'] }) > 1) return
      for (const key of ['queue', 'batches', 'deliveries']) void client.invalidateQueries({ queryKey: [key] })
    },
  }
  const order = useMutation({
    ...inTurn,
    mutationFn: (ids: string[]) => answer(server.PUT('/api/queue/order', { body: { ids } })),
    // Rows stay where they were let go while the server is asked; an answer to an earlier question must not move them back.
    onMutate: async (ids) => {
      await client.cancelQueries({ queryKey: deliveryQueries.queue().queryKey })
      const place = new Map(ids.map((id, index) => [id, index]))
      client.setQueryData(deliveryQueries.queue().queryKey, (rows) =>
        rows?.toSorted((a, b) => (place.get(a.id) ?? -1) - (place.get(b.id) ?? -1)),
      )
    },
  })
  const change = useMutation({
    ...inTurn,
    mutationFn: ({ what, ...which }: { what: QueueChange; batch_id?: string; ids?: string[] }) =>
      answer(server.POST('/api/queue/{change}', { params: { path: { change: what } }, body: which })),
    onSuccess: (rows) => client.setQueryData(deliveryQueries.queue().queryKey, rows),
  })
  return { queue, error, order, change }
}

export function useBatches(enabled: MaybeRefOrGetter<boolean> = true) {
  return useQuery(computed(() => ({ ...deliveryQueries.batches(), enabled: toValue(enabled) })))
}

/** Seconds until each of the queue is made, by what was expected and how far it is; held ones wait for ever. */
export function secondsUntil(queue: Delivery[], now: number): Map<string, number> {
  const running = queue.filter((one) => one.state === 'running')
  const atOnce = Math.max(1, running.length)
  const until = new Map<string, number>()
  let before = 0
  for (const one of queue) {
    if (one.state === 'paused') continue
    if (one.state === 'running') {
      const left = secondsLeft(one, now) ?? one.expected_seconds * (1 - one.progress)
      until.set(one.id, left)
      before += left / atOnce
    } else {
      before += one.expected_seconds / atOnce
      until.set(one.id, before)
    }
  }
  return until
}
