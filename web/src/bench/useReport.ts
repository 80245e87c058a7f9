import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'

import { answer, server } from '../api/client'
import { useNotice } from '../parts/useNotice'
import { benchQueries, type Report } from './queries'

export type { Report } from './queries'

/** The fidelity report on a take as it is now, looked after while the worker makes it. */
export function useReport(takeId: MaybeRefOrGetter<string>, chain: MaybeRefOrGetter<string>) {
  const client = useQueryClient()
  const notice = useNotice()
  const query = computed(() => benchQueries.report(toValue(takeId), toValue(chain)))
  const { data: report } = useQuery(
    computed(() => ({
      ...query.value,
      refetchInterval: ({ state }: { state: { data?: Report } }) =>
        ['queued', 'running'].includes(state.data?.state ?? '') ? 700 : false,
    })),
  )
  const ask = useMutation({
    mutationFn: () =>
      answer(server.POST('/api/takes/{take_id}/report', { params: { path: { take_id: toValue(takeId) } } })),
    onSuccess: (now) => client.setQueryData(query.value.queryKey, now),
    onError: notice.fault,
  })
  return { report, ask }
}
