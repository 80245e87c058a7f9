import { queryOptions } from '@tanstack/vue-query'

import { answer, server, type Schemas } from '../api/client'

export type Picture = Schemas['PictureOut']
export type Facts = Schemas['Facts']

/** What is asked of the server about pictures. */
export const pictureQueries = {
  /** Those of a job. */
  all: (jobId: string) =>
    queryOptions({
      queryKey: ['pictures', 'of', jobId],
      queryFn: ({ signal }) =>
        answer(server.GET('/api/jobs/{job_id}/pictures', { params: { path: { job_id: jobId } }, signal })),
    }),
  one: (id: string) =>
    queryOptions({
      queryKey: ['pictures', id],
      queryFn: ({ signal }) =>
        answer(server.GET('/api/pictures/{picture_id}', { params: { path: { picture_id: id } }, signal })),
    }),
}
