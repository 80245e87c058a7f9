import { queryOptions } from '@tanstack/vue-query'

import { answer, server, type Schemas } from '../api/client'

export type Report = Schemas['ReportOut']
export type Pixel = Schemas['PixelOut']

/** What is measured in a result on the bench; `chain` changes with the take. */
export const benchQueries = {
  histogram: (takeId: string, chain: string) =>
    queryOptions({
      queryKey: ['histogram', takeId, chain],
      queryFn: ({ signal }) =>
        answer(server.GET('/api/takes/{take_id}/histogram', { params: { path: { take_id: takeId } }, signal })),
      staleTime: Infinity,
    }),
  /** The fidelity report. */
  report: (takeId: string, chain: string) =>
    queryOptions({
      queryKey: ['report', takeId, chain],
      queryFn: ({ signal }) =>
        answer(server.GET('/api/takes/{take_id}/report', { params: { path: { take_id: takeId } }, signal })),
    }),
}
