import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, toValue, watch, type MaybeRefOrGetter } from 'vue'

import { answer, server } from '../api/client'
import { folderQueries, type HandOff, type HandOffDraft } from './queries'

export type { HandOff, HandOffDraft } from './queries'

/** What lies in a folder of the server's disk that may be used; the roots without a path. */
export function useFolder(path: MaybeRefOrGetter<string>, enabled: MaybeRefOrGetter<boolean>) {
  return useQuery(
    computed(() => ({
      ...folderQueries.inside(toValue(path)),
      enabled: toValue(enabled),
      retry: false,
      placeholderData: keepPreviousData,
    })),
  )
}

/** The hand-off folders of a job; looked at again every few seconds while they are shown. */
export function useHandOffs(jobId: MaybeRefOrGetter<string>, shown: MaybeRefOrGetter<boolean>) {
  const client = useQueryClient()
  const refresh = () => client.invalidateQueries({ queryKey: ['hand-offs'] })
  const { data: handOffs, error } = useQuery(
    computed(() => ({ ...folderQueries.handOffs(toValue(jobId)), enabled: toValue(shown), refetchInterval: 3000 })),
  )
  // What came meanwhile stands among the pictures.
  watch(handOffs, (now, before) => {
    const came = (rows: HandOff[] | undefined, id: string) => rows?.find((one) => one.id === id)?.came
    if (before?.some((one) => came(now, one.id) !== one.came)) void client.invalidateQueries({ queryKey: ['pictures'] })
  })
  const begin = useMutation({
    mutationFn: (draft: HandOffDraft) =>
      answer(
        server.POST('/api/jobs/{job_id}/hand-offs', { params: { path: { job_id: toValue(jobId) } }, body: draft }),
      ),
    onSuccess: refresh,
  })
  const setWatched = useMutation({
    mutationFn: ({ id, watched }: { id: string; watched: boolean }) =>
      answer(
        server.PATCH('/api/hand-offs/{hand_off_id}', { params: { path: { hand_off_id: id } }, body: { watched } }),
      ),
    onSuccess: refresh,
  })
  const end = useMutation({
    mutationFn: (id: string) =>
      answer(server.DELETE('/api/hand-offs/{hand_off_id}', { params: { path: { hand_off_id: id } } })),
    onSuccess: refresh,
  })
  return { handOffs, error, begin, watch: setWatched, end }
}
