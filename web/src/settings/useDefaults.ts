import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'

import { api, type Schemas } from '../api/client'
import { useNotice } from '../shell/useNotice'

export type Defaults = Required<Schemas['Defaults']>

/** What a person usually wants, where new takes and deliveries start from. */
export function useDefaults() {
  const client = useQueryClient()
  const notice = useNotice()
  const { data: defaults } = useQuery({
    queryKey: ['defaults'],
    queryFn: ({ signal }) => api.get<Defaults>('/defaults', signal),
    staleTime: Infinity,
  })
  const change = useMutation({
    mutationFn: (wanted: Defaults) => api.put<Defaults>('/defaults', wanted),
    onSuccess: (now) => {
      client.setQueryData(['defaults'], now)
      notice.say('Saved. New takes and deliveries start from this; those there are stay as they are.')
    },
  })
  return { defaults, change }
}
