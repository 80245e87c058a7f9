import { queryOptions } from '@tanstack/vue-query'

import { answer, server, type Schemas } from '../api/client'

export type Spot = Schemas['SpotOut']

/** What is asked of the server about check spots. */
export const boardQueries = {
  spots: (pictureId: string) =>
    queryOptions({
      queryKey: ['spots', pictureId],
      queryFn: ({ signal }) =>
        answer(server.GET('/api/pictures/{picture_id}/spots', { params: { path: { picture_id: pictureId } }, signal })),
    }),
}
