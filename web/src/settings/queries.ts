import { queryOptions } from '@tanstack/vue-query'

import { answer, server, type Schemas } from '../api/client'

export type Defaults = Required<Schemas['Defaults']>

/** What is asked of the server about a person's settings. */
export const settingQueries = {
  defaults: () =>
    queryOptions({
      queryKey: ['defaults'],
      queryFn: ({ signal }) => answer(server.GET('/api/defaults', { signal })),
      staleTime: Infinity,
    }),
}
