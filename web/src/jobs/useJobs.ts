import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import type { MaybeRefOrGetter } from 'vue'
import { toValue } from 'vue'

import { api, type Schemas } from '../api/client'

export type Job = Schemas['JobOut']
export type JobDraft = Schemas['JobIn']

/** All jobs, the one worked on last first. */
export function useJobs() {
  return useQuery({ queryKey: ['jobs'], queryFn: ({ signal }) => api.get<Job[]>('/jobs', signal) })
}

export function useJob(id: MaybeRefOrGetter<string>) {
  return useQuery({
    queryKey: ['jobs', id],
    queryFn: ({ signal }) => api.get<Job>(`/jobs/${toValue(id)}`, signal),
  })
}

/** Begin, change, put away and bring back jobs. */
export function useJobChanges() {
  const client = useQueryClient()
  const refresh = () => client.invalidateQueries({ queryKey: ['jobs'] })
  return {
    create: useMutation({ mutationFn: (job: JobDraft) => api.post<Job>('/jobs', job), onSuccess: refresh }),
    change: useMutation({
      mutationFn: ({ id, job }: { id: string; job: JobDraft }) => api.put<Job>(`/jobs/${id}`, job),
      onSuccess: refresh,
    }),
    remove: useMutation({ mutationFn: (id: string) => api.delete(`/jobs/${id}`), onSuccess: refresh }),
    restore: useMutation({ mutationFn: (id: string) => api.post(`/jobs/${id}/restore`), onSuccess: refresh }),
  }
}
