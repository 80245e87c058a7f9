import { useQuery } from '@tanstack/vue-query'
import { toValue, type MaybeRefOrGetter } from 'vue'

import { api, type Schemas } from '../api/client'

export type PrintNeed = Schemas['PrintNeed']
export type PaperName = PrintNeed['paper']

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

/** What every size needs of a take's framed picture; `chain` changes with the take. */
export function usePrints(takeId: MaybeRefOrGetter<string>, chain: MaybeRefOrGetter<string>, wish: MaybeRefOrGetter<Wish>, enabled: MaybeRefOrGetter<boolean>) {
  return useQuery({
    queryKey: ['prints', takeId, chain, wish],
    queryFn: ({ signal }) => {
      const asked = Object.entries(toValue(wish)).filter(([, value]) => value !== null)
      const query = new URLSearchParams(asked.map(([name, value]) => [name, String(value)]))
      return api.get<Schemas['PrintsOut']>(`/takes/${toValue(takeId)}/prints?${query.toString()}`, signal)
    },
    enabled,
    placeholderData: (before) => before,
    retry: false,
  })
}
