import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'

import { answer, server } from '../api/client'
import { jobQueries, type JobDraft } from './queries'

export type { Job, JobDraft } from './queries'

/** All jobs, the one worked on last first. */
export function useJobs() {
  return useQuery(jobQueries.all())
}

export function useJob(id: MaybeRefOrGetter<string>) {
  return useQuery(computed(() => jobQueries.one(toValue(id))))
}

/** Begin, change, put away and bring back jobs. */
export function useJobChanges() {
  const client = useQueryClient()
  const refresh = () => client.invalidateQueries({ queryKey: jobQueries.all().queryKey })
  return {
    create: useMutation({
      mutationFn: (job: JobDraft) => answer(server.POST('/api/jobs', { body: job })),
      onSuccess: refresh,
    }),
    change: useMutation({
      mutationFn: ({ id, job }: { id: string; job: JobDraft }) =>
        answer(server.PUT('/api/jobs/{job_id}', { params: { path: { job_id: id } }, body: job })),
      onSuccess: refresh,
    }),
    remove: useMutation({
      mutationFn: (id: string) => answer(server.DELETE('/api/jobs/{job_id}', { params: { path: { job_id: id } } })),
      onSuccess: refresh,
    }),
    restore: useMutation({
      mutationFn: (id: string) =>
        answer(server.POST('/api/jobs/{job_id}/restore', { params: { path: { job_id: id } } })),
      onSuccess: refresh,
    }),
  }
}
