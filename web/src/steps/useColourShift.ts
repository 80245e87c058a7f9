import { useQuery } from '@tanstack/vue-query'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'

import type { Schemas } from '../api/client'
import { stepQueries } from './queries'

/** How far the take's tones and colours are from the source's; measured when asked for, and again when the take changes. */
export function useColourShift(take: MaybeRefOrGetter<Schemas['TakeOut']>, wanted: MaybeRefOrGetter<boolean>) {
  return useQuery(
    computed(() => {
      const { id, plan } = toValue(take)
      return { ...stepQueries.colourShift(id, plan?.chain), enabled: toValue(wanted) && plan !== null }
    }),
  )
}

/** A colour difference in words, as people see it side by side. */
export function shiftWord(difference: number): string {
  if (difference < 0.5) return 'not to be seen'
  if (difference < 1) return 'hardly to be seen'
  return difference < 2 ? 'seen side by side' : 'plainly seen'
}
