import { queryOptions } from '@tanstack/vue-query'

import { answer, server, type Schemas } from '../api/client'

export type Card = Schemas['CardOut']
export type Applied = Schemas['Applied']

/** What is asked of the server about cards. */
export const cardQueries = {
  all: () =>
    queryOptions({
      queryKey: ['cards'],
      queryFn: ({ signal }) => answer(server.GET('/api/cards', { signal })),
    }),
}
