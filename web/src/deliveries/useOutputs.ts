import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'

import { api, type Schemas } from '../api/client'
import type { OutputSpec } from './useDeliveries'

export type SavedOutput = Schemas['OutputOut']

/** Output specs kept under a name. */
export function useOutputs() {
  const client = useQueryClient()
  const { data: outputs } = useQuery({ queryKey: ['outputs'], queryFn: ({ signal }) => api.get<SavedOutput[]>('/outputs', signal) })
  const refresh = () => client.invalidateQueries({ queryKey: ['outputs'] })
  const save = useMutation({
    mutationFn: ({ name, spec }: { name: string; spec: OutputSpec }) => api.post<SavedOutput>('/outputs', { name, spec }),
    onSuccess: refresh,
  })
  const remove = useMutation({ mutationFn: (id: string) => api.delete(`/outputs/${id}`), onSuccess: refresh })
  return { outputs, save, remove }
}
