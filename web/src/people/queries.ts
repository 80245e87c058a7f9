import { queryOptions } from '@tanstack/vue-query'

import { answer, server, type Schemas } from '../api/client'

export type Session = Schemas['Session']

/** What is asked of the server about who is there. */
export const peopleQueries = {
  session: () =>
    queryOptions({
      queryKey: ['session'],
      queryFn: ({ signal }) => answer(server.GET('/api/session', { signal })),
    }),
}
