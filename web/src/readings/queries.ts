import { queryOptions } from '@tanstack/vue-query'

import { answer, server, type Schemas } from '../api/client'

export type ReadingOut = Schemas['ReadingOut']

/** What is asked of the server about readings. */
export const readingQueries = {
  one: (pictureId: string) =>
    queryOptions({
      queryKey: ['reading', pictureId],
      queryFn: ({ signal }) =>
        answer(
          server.GET('/api/pictures/{picture_id}/reading', { params: { path: { picture_id: pictureId } }, signal }),
        ),
    }),
}
