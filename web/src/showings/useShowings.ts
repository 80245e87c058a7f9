import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'

import { answer, server } from '../api/client'
import { useNotice } from '../parts/useNotice'
import { showingQueries, type ShowingIn } from './queries'

/** The showings of a job, and what can be done with them. */
export function useShowings(jobId: MaybeRefOrGetter<string>) {
  const client = useQueryClient()
  const notice = useNotice()
  const query = computed(() => showingQueries.all(toValue(jobId)))
  const { data } = useQuery(query)
  const refresh = () => client.invalidateQueries({ queryKey: query.value.queryKey })
  const path = (id: string) => ({ params: { path: { showing_id: id } } })
  const handled = { onSuccess: refresh, onError: notice.fault }
  return {
    showings: computed(() => data.value ?? []),
    make: useMutation({
      mutationFn: (body: ShowingIn) =>
        answer(server.POST('/api/jobs/{job_id}/showings', { params: { path: { job_id: toValue(jobId) } }, body })),
      onSuccess: refresh,
    }),
    close: useMutation({
      mutationFn: (id: string) => answer(server.POST('/api/showings/{showing_id}/close', path(id))),
      ...handled,
    }),
    renew: useMutation({
      mutationFn: (id: string) => answer(server.POST('/api/showings/{showing_id}/renew', path(id))),
      ...handled,
    }),
    retry: useMutation({
      mutationFn: ({ id, position }: { id: string; position: number }) =>
        answer(
          server.POST('/api/showings/{showing_id}/pictures/{position}/retry', {
            params: { path: { showing_id: id, position } },
          }),
        ),
      ...handled,
    }),
  }
}

/** What clients noted on a picture, and whether that was seen to. */
export function useClientNotes(pictureId: MaybeRefOrGetter<string>) {
  const client = useQueryClient()
  const notice = useNotice()
  const query = computed(() => showingQueries.notes(toValue(pictureId)))
  const { data } = useQuery(query)
  const settle = useMutation({
    mutationFn: ({ id, done }: { id: number; done: boolean }) =>
      answer(server.PUT('/api/client-notes/{note_id}', { params: { path: { note_id: id } }, body: { done } })),
    onSuccess: () => {
      void client.invalidateQueries({ queryKey: query.value.queryKey })
      void client.invalidateQueries({ queryKey: ['showings'] })
    },
    onError: notice.fault,
  })
  return { notes: computed(() => data.value ?? []), settle }
}
