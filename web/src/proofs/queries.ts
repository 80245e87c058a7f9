import { queryOptions } from '@tanstack/vue-query'

import { answer, server, type Schemas } from '../api/client'

export type Printer = Schemas['PrinterOut']

/** What is asked of the server about printers. */
export const proofQueries = {
  printers: () =>
    queryOptions({
      queryKey: ['printers'],
      queryFn: ({ signal }) => answer(server.GET('/api/printers', { signal })),
    }),
  /** How much of a result a printer cannot print; `chain` changes with the take. */
  gamut: (takeId: string, chain: string, printer: string) =>
    queryOptions({
      queryKey: ['gamut', takeId, chain, printer],
      queryFn: ({ signal }) =>
        answer(
          server.GET('/api/takes/{take_id}/gamut', {
            params: { path: { take_id: takeId }, query: { printer } },
            signal,
          }),
        ),
      staleTime: Infinity,
    }),
}
