import { queryOptions } from '@tanstack/vue-query'

import { answer, server, type Schemas } from '../api/client'

export type Delivery = Schemas['DeliveryOut']
export type OutputSpec = Schemas['OutputSpec']
export type Batch = Schemas['BatchOut']
export type SavedOutput = Schemas['OutputOut']

const placingMilliseconds = 700

/** What is asked of the server about deliveries. */
export const deliveryQueries = {
  /** Those of a job, newest first. */
  all: (jobId: string) =>
    queryOptions({
      queryKey: ['deliveries', jobId],
      queryFn: ({ signal }) =>
        answer(server.GET('/api/jobs/{job_id}/deliveries', { params: { path: { job_id: jobId } }, signal })),
    }),
  /** What is being made and what waits, the first to be made first. */
  queue: () =>
    queryOptions({
      queryKey: ['queue'],
      queryFn: ({ signal }) => answer(server.GET('/api/queue', { signal })),
    }),
  batches: () =>
    queryOptions({
      queryKey: ['batches'],
      queryFn: ({ signal }) => answer(server.GET('/api/batches', { signal })),
      // Until all are in the queue; from there on the server tells.
      refetchInterval: ({ state }) => (state.data?.some((one) => !one.placed) ? placingMilliseconds : false),
    }),
  /** Output specs kept under a name. */
  outputs: () =>
    queryOptions({
      queryKey: ['outputs'],
      queryFn: ({ signal }) => answer(server.GET('/api/outputs', { signal })),
    }),
  /** What a file of a take would be like; `chain` changes with the take. */
  estimate: (takeId: string, chain: string | undefined, wanted: { spec: OutputSpec; name: string }) =>
    queryOptions({
      queryKey: ['estimate', takeId, chain, wanted],
      queryFn: ({ signal }) =>
        answer(
          server.POST('/api/takes/{take_id}/estimate', { params: { path: { take_id: takeId } }, body: wanted, signal }),
        ),
    }),
}
