import { queryOptions } from '@tanstack/vue-query'

import { answer, server, type Schemas } from '../api/client'

export type Engine = Schemas['EngineOut']
export type EngineKind = Engine['kind']

/** What is asked of the server about engines. */
export const engineQueries = {
  /** Every engine of the workshop, in the order of the shelf. */
  all: () =>
    queryOptions({
      queryKey: ['engines'],
      queryFn: ({ signal }) => answer(server.GET('/api/engines', { signal })),
      staleTime: 60_000,
    }),
}
