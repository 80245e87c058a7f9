import { queryOptions } from '@tanstack/vue-query'

import { answer, server, type Schemas } from '../api/client'

export type Take = Schemas['TakeOut']
export type Step = Take['steps'][number]
export type Plan = NonNullable<Take['plan']>

/** What is asked of the server about takes. */
export const takeQueries = {
  one: (id: string) =>
    queryOptions({
      queryKey: ['takes', id],
      queryFn: ({ signal }) =>
        answer(server.GET('/api/takes/{take_id}', { params: { path: { take_id: id } }, signal })),
      staleTime: Infinity,
    }),
  /** Those of a picture, from the top. */
  all: (pictureId: string) =>
    queryOptions({
      queryKey: ['takes', 'of', pictureId],
      queryFn: ({ signal }) =>
        answer(server.GET('/api/pictures/{picture_id}/takes', { params: { path: { picture_id: pictureId } }, signal })),
    }),
}
