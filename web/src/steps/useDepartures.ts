import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'

import type { Take } from '../takes/useTake'
import type { Faces } from './faces'
import { stepQueries } from './queries'

/**
 * How far each face of a step departs from the source at its size, of 255; null where that is not known or nothing is done.
 * Measured anew when the take has changed.
 */
export function useDepartures(take: () => Take, step: () => Faces, index: () => number) {
  const { data } = useQuery(
    computed(() => {
      const { id, plan } = take()
      const wanted = step().on && (step().faces ?? []).some(({ on }) => on)
      return {
        ...stepQueries.departures(id, index(), plan?.chain),
        enabled: plan !== null && wanted,
        placeholderData: keepPreviousData,
      }
    }),
  )
  return (place: number): number | null => (step().on ? (data.value?.[place] ?? null) : null)
}

/** A departure in words. */
export function departureText(departure: number): string {
  return departure < 0.05 ? 'equals the source' : `± ${departure < 10 ? departure.toFixed(1) : Math.round(departure)}`
}
