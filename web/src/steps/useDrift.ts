import { useQuery } from '@tanstack/vue-query'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'

import { api, type Schemas } from '../api/client'

/** How far the take's tones and colours are from the source's; measured when asked for, and again when the take changes. */
export function useDrift(take: MaybeRefOrGetter<Schemas['TakeOut']>, wanted: MaybeRefOrGetter<boolean>) {
  return useQuery({
    queryKey: computed(() => ['drift', toValue(take).id, toValue(take).plan?.chain]),
    queryFn: ({ signal }) => api.get<Schemas['ColourShift']>(`/takes/${toValue(take).id}/colour-shift`, signal),
    enabled: computed(() => toValue(wanted) && toValue(take).plan !== null),
    staleTime: Infinity,
  })
}

/** A colour difference in words, as people see it side by side. */
export function driftWord(difference: number): string {
  if (difference < 0.5) return 'not to be seen'
  if (difference < 1) return 'hardly to be seen'
  return difference < 2 ? 'seen side by side' : 'plainly seen'
}
