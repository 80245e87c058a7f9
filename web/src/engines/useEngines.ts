import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'

import { answer, sendForm, server } from '../api/client'
import { engineQueries, type Engine, type EngineKind } from './queries'

export type { Engine, EngineKind } from './queries'

/** Every engine of the workshop, in the order of the shelf. */
export function useEngines() {
  return useQuery(engineQueries.all())
}

/** The engines that can do one kind of step. */
export function useEnginesOf(kind: EngineKind) {
  const { data } = useEngines()
  return computed(() => data.value?.filter((engine) => engine.kind === kind) ?? [])
}

export function useEngineChanges() {
  const client = useQueryClient()
  const renew = () => client.invalidateQueries({ queryKey: engineQueries.all().queryKey })
  return {
    measure: useMutation({
      mutationFn: (id: string) => answer(server.POST('/api/engines/{name}/speed', { params: { path: { name: id } } })),
      onSuccess: renew,
    }),
    bring: useMutation({
      mutationFn: (files: { network: File; manifest: File }) => sendForm<Engine>('/api/engines', files),
      onSuccess: renew,
    }),
    remove: useMutation({
      mutationFn: (id: string) => answer(server.DELETE('/api/engines/{name}', { params: { path: { name: id } } })),
      onSuccess: renew,
    }),
    putBack: useMutation({
      mutationFn: (id: string) => answer(server.POST('/api/engines/{name}/back', { params: { path: { name: id } } })),
      onSuccess: renew,
    }),
  }
}
