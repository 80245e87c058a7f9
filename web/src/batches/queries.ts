import { queryOptions } from '@tanstack/vue-query'

import { answer, server, type Schemas } from '../api/client'

export type BatchDraft = Schemas['BatchIn']

/** What is asked of the server before many pictures are delivered. */
export const batchQueries = {
  /** What would be made of each picture. */
  plan: (wanted: BatchDraft) =>
    queryOptions({
      queryKey: ['batch', wanted],
      queryFn: ({ signal }) => answer(server.POST('/api/batch/plan', { body: wanted, signal })),
    }),
}
