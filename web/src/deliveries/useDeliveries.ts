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
      /** One file, or one for each panel, and one by each saved output of `outputs`. */
      mutationFn: ({ takeId, ...wanted }: { takeId: string; spec: OutputSpec; name: string; outputs: string[] }) =>
        api.post<Delivery[]>(`/takes/${takeId}/files`, wanted),
      onSuccess: (files) => refresh(files[0]!),
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
    let known: Delivery | undefined
    const put = (rows: Delivery[] | undefined) => {
      const place = rows?.findIndex((one) => one.id === delivery.id) ?? -1
      if (place < 0) return rows
      known = rows![place]
      return rows!.with(place, delivery)
    }
    client.setQueryData<Delivery[]>(['queue'], put)
    client.setQueryData<Delivery[]>(['deliveries', delivery.job_id], (rows) => (rows && !rows.some((one) => one.id === delivery.id) ? [delivery, ...rows] : put(rows)))
    client.setQueryData<Schemas['BatchOut'][]>(['batches'], (rows) =>
      rows?.map((batch) => (batch.id === delivery.batch_id ? { ...batch, deliveries: put(batch.deliveries)! } : batch)),
    )
    if (known?.state !== delivery.state) {
      void client.invalidateQueries({ queryKey: ['queue'] })
      if (delivery.batch_id) void client.invalidateQueries({ queryKey: ['batches'] })
    }
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

export const unfinished = (delivery: Delivery) => ['queued', 'paused', 'running'].includes(delivery.state)

/** A file's format in a few words, such as “TIFF 16 bit ZIP”. */
export function formatText(spec: OutputSpec): string {
  const { format = 'tiff', depth, compression, quality } = spec
  if (format === 'tiff') return `TIFF ${depth} bit ${compression === 'none' ? 'uncompressed' : compression!.toUpperCase()}`
  if (format === 'png') return `PNG ${depth} bit`
  if (format === 'pdf') return 'PDF'
  return format === 'jpeg' ? `JPEG ${quality}` : 'WebP'
}

/** Seconds left, from how far it is and how long that took; undefined until that says something. */
export function secondsLeft(delivery: Delivery, now: number): number | undefined {
  if (delivery.state !== 'running' || !delivery.started || delivery.progress < 0.03) return undefined
  const spent = (now - new Date(delivery.started).getTime()) / 1000
  return Math.max(0, spent / delivery.progress - spent)
}
