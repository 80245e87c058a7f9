import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, onScopeDispose, toValue, watch, type MaybeRefOrGetter, type Ref } from 'vue'

import { answer, server, type Schemas } from '../api/client'
import { deliveryQueries, type Delivery, type OutputSpec } from './queries'

export type { Delivery, OutputSpec } from './queries'

/** The deliveries of a job, newest first; kept live by {@link useDeliveryEvents}. */
export function useDeliveries(jobId: MaybeRefOrGetter<string>) {
  return useQuery(computed(() => deliveryQueries.all(toValue(jobId))))
}

export function useDeliveryChanges() {
  const client = useQueryClient()
  const refresh = (delivery: Delivery) => {
    void client.invalidateQueries({ queryKey: deliveryQueries.all(delivery.job_id).queryKey })
    void client.invalidateQueries({ queryKey: ['jobs'] })
  }
  return {
    order: useMutation({
      /** One file, or one for each panel, and one by each saved output of `outputs`. */
      mutationFn: ({ takeId, ...wanted }: { takeId: string } & Schemas['FilesIn']) =>
        answer(server.POST('/api/takes/{take_id}/files', { params: { path: { take_id: takeId } }, body: wanted })),
      onSuccess: (files) => refresh(files[0]!),
    }),
    cancel: useMutation({
      mutationFn: (id: string) =>
        answer(server.POST('/api/deliveries/{delivery_id}/cancel', { params: { path: { delivery_id: id } } })),
      onSuccess: refresh,
    }),
    retry: useMutation({
      mutationFn: (id: string) =>
        answer(server.POST('/api/deliveries/{delivery_id}/retry', { params: { path: { delivery_id: id } } })),
      onSuccess: refresh,
    }),
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
    client.setQueryData(deliveryQueries.queue().queryKey, put)
    client.setQueryData(deliveryQueries.all(delivery.job_id).queryKey, (rows) =>
      rows && !rows.some((one) => one.id === delivery.id) ? [delivery, ...rows] : put(rows),
    )
    client.setQueryData(deliveryQueries.batches().queryKey, (rows) =>
      rows?.map((batch) => (batch.id === delivery.batch_id ? { ...batch, deliveries: put(batch.deliveries)! } : batch)),
    )
    if (known?.state !== delivery.state) {
      void client.invalidateQueries({ queryKey: deliveryQueries.queue().queryKey })
      if (delivery.batch_id) void client.invalidateQueries({ queryKey: deliveryQueries.batches().queryKey })
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
  if (format === 'tiff')
    return `TIFF ${depth} bit ${compression === 'none' ? 'uncompressed' : compression!.toUpperCase()}`
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

/** Why a delivery does not go on. */
export function heldText({ awaits_approval, message }: Pick<Delivery, 'awaits_approval' | 'message'>): string {
  return message || (awaits_approval ? 'waits for the client' : 'paused')
}
