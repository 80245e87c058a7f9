import { queryOptions } from '@tanstack/vue-query'

import { answer, server, type Schemas } from '../api/client'

export type Clip = Schemas['ClipOut']
export type Moment = Schemas['Moment']

const path = (id: string) => ({ params: { path: { clip_id: id } } })

/** What is asked of the server about clips. */
export const clipQueries = {
  /** Those of a job. */
  all: (jobId: string) =>
    queryOptions({
      queryKey: ['clips', 'of', jobId],
      queryFn: ({ signal }) =>
        answer(server.GET('/api/jobs/{job_id}/clips', { params: { path: { job_id: jobId } }, signal })),
    }),
  one: (id: string) =>
    queryOptions({
      queryKey: ['clips', id],
      queryFn: ({ signal }) => answer(server.GET('/api/clips/{clip_id}', { ...path(id), signal })),
    }),
  /** When each frame begins, and its time code. */
  times: (id: string) =>
    queryOptions({
      queryKey: ['clips', id, 'times'],
      queryFn: ({ signal }) => answer(server.GET('/api/clips/{clip_id}/times', { ...path(id), signal })),
      staleTime: Infinity,
    }),
  /** How sharp each frame is: asked again while it is being made. */
  curve: (id: string) =>
    queryOptions({
      queryKey: ['clips', id, 'curve'],
      queryFn: ({ signal }) => answer(server.GET('/api/clips/{clip_id}/curve', { ...path(id), signal })),
      refetchInterval: ({ state }) => (['done', 'failed'].includes(state.data?.state ?? '') ? false : 700),
    }),
  /** Moments in which people look well: the same, after the curve. */
  moments: (id: string) =>
    queryOptions({
      queryKey: ['clips', id, 'moments'],
      queryFn: ({ signal }) => answer(server.GET('/api/clips/{clip_id}/moments', { ...path(id), signal })),
      refetchInterval: ({ state }) => (['done', 'failed'].includes(state.data?.state ?? '') ? false : 1000),
    }),
}
