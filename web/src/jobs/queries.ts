import { queryOptions } from '@tanstack/vue-query'

import { answer, server, type Schemas } from '../api/client'

export type Job = Schemas['JobOut']
export type JobDraft = Schemas['JobIn']

/** What is asked of the server about jobs. */
export const jobQueries = {
  /** All jobs, the one worked on last first. */
  all: () =>
    queryOptions({
      queryKey: ['jobs'],
      queryFn: ({ signal }) => answer(server.GET('/api/jobs', { signal })),
    }),
  one: (id: string) =>
    queryOptions({
      queryKey: ['jobs', id],
      queryFn: ({ signal }) => answer(server.GET('/api/jobs/{job_id}', { params: { path: { job_id: id } }, signal })),
    }),
}
