import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'

import { api, type Schemas } from '../api/client'
import { useNotice } from '../shell/useNotice'

export type Report = Schemas['ReportOut']

/** The fidelity report on a take as it is now, looked after while the worker makes it. */
export function useReport(takeId: MaybeRefOrGetter<string>, chain: MaybeRefOrGetter<string>) {
  const client = useQueryClient()
  const notice = useNotice()
  const key = computed(() => ['report', toValue(takeId), toValue(chain)])
  const { data: report } = useQuery({
    queryKey: key,
    queryFn: ({ signal }) => api.get<Report>(`/takes/${toValue(takeId)}/report`, signal),
    refetchInterval: (query) => (['queued', 'running'].includes(query.state.data?.state ?? '') ? 700 : false),
  })
  const ask = useMutation({
    mutationFn: () => api.post<Report>(`/takes/${toValue(takeId)}/report`),
    onSuccess: (now) => client.setQueryData(key.value, now),
    onError: notice.fault,
  })
  return { report, ask }
}
