import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'

import { printQueries, type Wish } from './queries'

export type { PaperName, PrintNeed, Wish } from './queries'

/** What every size needs of a take's framed picture; `chain` changes with the take. */
export function usePrints(
  takeId: MaybeRefOrGetter<string>,
  chain: MaybeRefOrGetter<string>,
  wish: MaybeRefOrGetter<Wish>,
  enabled: MaybeRefOrGetter<boolean>,
) {
  return useQuery(
    computed(() => ({
      ...printQueries.needs(toValue(takeId), toValue(chain), { ...toValue(wish) }),
      enabled: toValue(enabled),
      placeholderData: keepPreviousData,
      retry: false,
    })),
  )
}
