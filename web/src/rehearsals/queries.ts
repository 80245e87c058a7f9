import { queryOptions } from '@tanstack/vue-query'

import { answer, server, type Schemas } from '../api/client'

export type RehearsalOut = Schemas['RehearsalOut']
export type Candidate = Schemas['Candidate']

/** What is asked of the server about rehearsals. */
export const rehearsalQueries = {
  one: (pictureId: string) =>
    queryOptions({
      queryKey: ['rehearsal', pictureId],
      queryFn: ({ signal }) =>
        answer(
          server.GET('/api/pictures/{picture_id}/rehearsal', { params: { path: { picture_id: pictureId } }, signal }),
        ),
    }),
}
