import { queryOptions } from '@tanstack/vue-query'

import { answer, server } from '../api/client'

/** What is measured for the controls of steps. */
export const stepQueries = {
  /** How far a result's tones and colours are from its source's; `chain` changes with the take. */
  colourShift: (takeId: string, chain: string | undefined) =>
    queryOptions({
      queryKey: ['colour-shift', takeId, chain],
      queryFn: ({ signal }) =>
        answer(server.GET('/api/takes/{take_id}/colour-shift', { params: { path: { take_id: takeId } }, signal })),
      staleTime: Infinity,
    }),
}
