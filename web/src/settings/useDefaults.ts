import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'

import { answer, server } from '../api/client'
import { useNotice } from '../parts/useNotice'
import { settingQueries, type Defaults } from './queries'

export type { Defaults } from './queries'

/** What a person usually wants, where new takes and deliveries start from. */
export function useDefaults() {
  const client = useQueryClient()
  const notice = useNotice()
  const { data: defaults } = useQuery(settingQueries.defaults())
  const change = useMutation({
    mutationFn: (wanted: Defaults) => answer(server.PUT('/api/defaults', { body: wanted })),
    onSuccess: (now) => {
      client.setQueryData(settingQueries.defaults().queryKey, now)
      notice.say('Saved. New takes and deliveries start from this; those there are stay as they are.')
    },
  })
  return { defaults, change }
}
