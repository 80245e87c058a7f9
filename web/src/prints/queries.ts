import { queryOptions } from '@tanstack/vue-query'

import { answer, server, type Schemas } from '../api/client'

/** How prints are to be made and seen; sides of a free size may be empty. */
export interface Wish {
  paper: PaperName
  distance_cm: number | null
  mode: 'fit' | 'fill'
  border_mm: number
  width: number | null
  height: number | null
  unit: 'cm' | 'in' | 'mm'
}

export type PrintNeed = Schemas['PrintNeed']
export type PaperName = PrintNeed['paper']

/** What is asked of the server about prints. */
export const printQueries = {
  /** What every size needs of a take's framed picture; `chain` changes with the take. */
  needs: (takeId: string, chain: string, wish: Wish) =>
    queryOptions({
      queryKey: ['prints', takeId, chain, wish],
      queryFn: ({ signal }) => {
        const query = Object.fromEntries(Object.entries(wish).filter(([, value]) => value !== null)) as Partial<Wish>
        return answer(
          server.GET('/api/takes/{take_id}/prints', {
            params: { path: { take_id: takeId }, query: query as never },
            signal,
          }),
        )
      },
    }),
}
