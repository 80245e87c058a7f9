import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'

import { api, sendForm, type Schemas } from '../api/client'

export type Engine = Schemas['EngineOut']
export type EngineKind = Engine['kind']

/** Every engine of the workshop, in the order of the shelf. */
export function useEngines() {
  return useQuery({ queryKey: ['engines'], queryFn: () => api.get<Engine[]>('/engines'), staleTime: 60_000 })
}

/** The engines that can do one kind of step. */
export function useEnginesOf(kind: EngineKind) {
  const { data } = useEngines()
  return computed(() => data.value?.filter((engine) => engine.kind === kind) ?? [])
}

export function useEngineChanges() {
  const client = useQueryClient()
  const renew = () => client.invalidateQueries({ queryKey: ['engines'] })
  return {
    measure: useMutation({
      mutationFn: (id: string) => api.post<Schemas['SpeedOut']>(`/engines/${id}/speed`),
      onSuccess: renew,
    }),
    bring: useMutation({
      mutationFn: (files: { network: File; manifest: File }) => sendForm<Engine>('/engines', files),
      onSuccess: renew,
    }),
    remove: useMutation({ mutationFn: (id: string) => api.delete<undefined>(`/engines/${id}`), onSuccess: renew }),
    putBack: useMutation({ mutationFn: (id: string) => api.post<Engine>(`/engines/${id}/back`), onSuccess: renew }),
  }
}
