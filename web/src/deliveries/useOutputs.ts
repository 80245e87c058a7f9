import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'

import { answer, server } from '../api/client'
import { deliveryQueries, type OutputSpec } from './queries'

export type { SavedOutput } from './queries'

/** Output specs kept under a name. */
export function useOutputs() {
  const client = useQueryClient()
  const { data: outputs } = useQuery(deliveryQueries.outputs())
  const refresh = () => client.invalidateQueries({ queryKey: deliveryQueries.outputs().queryKey })
  const save = useMutation({
    mutationFn: ({ name, spec }: { name: string; spec: OutputSpec }) =>
      answer(server.POST('/api/outputs', { body: { name, spec } })),
    onSuccess: refresh,
  })
  const remove = useMutation({
    mutationFn: (id: string) =>
      answer(server.DELETE('/api/outputs/{output_id}', { params: { path: { output_id: id } } })),
    onSuccess: refresh,
  })
  return { outputs, save, remove }
}
