import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { toValue, type MaybeRefOrGetter } from 'vue'

import { api, type Schemas } from '../api/client'

export type HandOff = Schemas['HandOffOut']
export type HandOffDraft = Schemas['HandOffIn']

/** What lies in a folder of the server's disk that may be used; the roots without a path. */
export function useFolder(path: MaybeRefOrGetter<string>, enabled: MaybeRefOrGetter<boolean>) {
  return useQuery({
    queryKey: ['folders', path],
    queryFn: ({ signal }) => api.get<Schemas['FolderOut']>(`/folders?path=${encodeURIComponent(toValue(path))}`, signal),
    enabled,
    retry: false,
    placeholderData: (before) => before,
  })
}

/** The hand-off folders of a job; looked at again every few seconds while they are shown. */
export function useHandOffs(jobId: MaybeRefOrGetter<string>, shown: MaybeRefOrGetter<boolean>) {
  const client = useQueryClient()
  const refresh = () => client.invalidateQueries({ queryKey: ['hand-offs'] })
  const { data: handOffs, error } = useQuery({
    queryKey: ['hand-offs', jobId],
    queryFn: async ({ signal }) => {
      const rows = await api.get<HandOff[]>(`/jobs/${toValue(jobId)}/hand-offs`, signal)
      const before = client.getQueryData<HandOff[]>(['hand-offs', toValue(jobId)])
      // What came meanwhile stands among the pictures.
      if (before?.some((one) => rows.find((now) => now.id === one.id)?.came !== one.came)) void client.invalidateQueries({ queryKey: ['pictures'] })
      return rows
    },
    enabled: shown,
    refetchInterval: 3000,
  })
  const begin = useMutation({ mutationFn: (draft: HandOffDraft) => api.post<HandOff>(`/jobs/${toValue(jobId)}/hand-offs`, draft), onSuccess: refresh })
  const watch = useMutation({ mutationFn: ({ id, watched }: { id: string; watched: boolean }) => api.patch<HandOff>(`/hand-offs/${id}`, { watched }), onSuccess: refresh })
  const end = useMutation({ mutationFn: (id: string) => api.delete(`/hand-offs/${id}`), onSuccess: refresh })
  return { handOffs, error, begin, watch, end }
}
