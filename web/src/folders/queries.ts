import { queryOptions } from '@tanstack/vue-query'

import { answer, server, type Schemas } from '../api/client'

export type HandOff = Schemas['HandOffOut']
export type HandOffDraft = Schemas['HandOffIn']

/** What is asked of the server about its folders. */
export const folderQueries = {
  /** What lies in a folder of the server's disk that may be used; the roots without a path. */
  inside: (path: string) =>
    queryOptions({
      queryKey: ['folders', path],
      queryFn: ({ signal }) => answer(server.GET('/api/folders', { params: { query: { path } }, signal })),
    }),
  handOffs: (jobId: string) =>
    queryOptions({
      queryKey: ['hand-offs', jobId],
      queryFn: ({ signal }) =>
        answer(server.GET('/api/jobs/{job_id}/hand-offs', { params: { path: { job_id: jobId } }, signal })),
    }),
}
