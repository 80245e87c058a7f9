import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { onScopeDispose, toValue, watch, type MaybeRefOrGetter, type Ref } from 'vue'

import { api, type Schemas } from '../api/client'

export type Delivery = Schemas['DeliveryOut']
export type OutputSpec = Schemas['OutputSpec']

/** The deliveries of a job, newest first; kept live by {@link useDeliveryEvents}. */
export function useDeliveries(jobId: MaybeRefOrGetter<string>) {
  return useQuery({
    queryKey: ['deliveries', jobId],
    queryFn: ({ signal }) => api.get<Delivery[]>(`/jobs/${toValue(jobId)}/deliveries`, signal),
  })
}

export function useDeliveryChanges() {
  const client = useQueryClient()
  const refresh = (delivery: Delivery) => {
    void client.invalidateQueries({ queryKey: ['deliveries', delivery.job_id] })
    void client.invalidateQueries({ queryKey: ['jobs'] })
  }
  return {
    order: useMutation({
      /** One file, or one for each panel; gives the first. */
      mutationFn: async ({ takeId, spec, name }: { takeId: string; spec: OutputSpec; name: string }) =>
        (await api.post<Delivery[]>(`/takes/${takeId}/panels`, { spec, name }))[0]!,
      onSuccess: refresh,
    }),
    cancel: useMutation({ mutationFn: (id: string) => api.post<Delivery>(`/deliveries/${id}/cancel`), onSuccess: refresh }),
    retry: useMutation({ mutationFn: (id: string) => api.post<Delivery>(`/deliveries/${id}/retry`), onSuccess: refresh }),
  }
}

/** Listen to the server while someone is signed in, and put every change of a delivery where it is shown. */
export function useDeliveryEvents(signedIn: Ref<boolean>) {
  const client = useQueryClient()
  let source: EventSource | null = null

  function heard(event: MessageEvent<string>) {
    const delivery = JSON.parse(event.data) as Delivery
    client.setQueryData<Delivery[]>(['deliveries', delivery.job_id], (known) => {
      if (!known) return known
      const place = known.findIndex((one) => one.id === delivery.id)
      return place < 0 ? [delivery, ...known] : known.toSpliced(place, 1, delivery)
    })
    if (delivery.state === 'done') void client.invalidateQueries({ queryKey: ['jobs'] })
  }

  watch(
    signedIn,
    (now) => {
      source?.close()
      source = null
      if (!now) return
      source = new EventSource('/api/events')
      source.addEventListener('delivery', heard)
    },
    { immediate: true },
  )
  onScopeDispose(() => source?.close())
}

export const unfinished = (delivery: Delivery) => delivery.state === 'queued' || delivery.state === 'running'

/** Seconds left, from how far it is and how long that took; undefined until that says something. */
export function secondsLeft(delivery: Delivery, now: number): number | undefined {
  if (delivery.state !== 'running' || !delivery.started || delivery.progress < 0.03) return undefined
  const spent = (now - new Date(delivery.started).getTime()) / 1000
  return Math.max(0, spent / delivery.progress - spent)
}
