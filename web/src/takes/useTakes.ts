import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, toValue, type MaybeRefOrGetter } from 'vue'

import { api, upload, type Schemas } from '../api/client'
import { useNotice } from '../shell/useNotice'

export type Take = Schemas['TakeOut']

/** All takes of a picture, from the top, and what can be done with them besides changing their steps. */
export function useTakes(pictureId: MaybeRefOrGetter<string>) {
  const client = useQueryClient()
  const notice = useNotice()
  const key = computed(() => ['takes', 'of', toValue(pictureId)])
  const { data: takes } = useQuery({
    queryKey: key,
    queryFn: ({ signal }) => api.get<Take[]>(`/pictures/${toValue(pictureId)}/takes`, signal),
  })

  async function refresh() {
    await Promise.all([
      client.invalidateQueries({ queryKey: key.value }),
      client.invalidateQueries({ queryKey: ['spots', toValue(pictureId)] }),
      client.invalidateQueries({ queryKey: ['pictures'] }),
    ])
  }
  function know(take: Take) {
    client.setQueryData(['takes', take.id], take)
  }

  const alter = useMutation({
    mutationFn: ({ id, ...told }: { id: string; name?: string; note?: string; verdict?: Take['verdict']; chosen?: boolean }) =>
      api.patch<Take>(`/takes/${id}`, told),
    onSuccess: (take) => {
      know(take)
      return refresh()
    },
    onError: notice.fault,
  })
  const order = useMutation({
    mutationFn: (ids: string[]) => api.post(`/pictures/${toValue(pictureId)}/takes/order`, { ids }),
    onMutate: (ids) => {
      client.setQueryData<Take[]>(key.value, (now) => now && ids.flatMap((id) => now.find((take) => take.id === id) ?? []))
    },
    onSettled: refresh,
    onError: notice.fault,
  })
  const restore = useMutation({ mutationFn: (id: string) => api.post<Take>(`/takes/${id}/restore`), onSuccess: refresh, onError: notice.fault })
  const discard = useMutation({
    mutationFn: (take: Take) => api.delete(`/takes/${take.id}`),
    onSuccess: (_, take) => {
      notice.say(`Take ${take.name} is discarded.`, { label: 'Bring back', run: () => restore.mutate(take.id) })
      return refresh()
    },
    onError: notice.fault,
  })
  const tryEngines = useMutation({
    mutationFn: ({ id, engines }: { id: string; engines: string[] }) => api.post<Take[]>(`/takes/${id}/engines`, { engines }),
    onSuccess: async (made) => {
      made.forEach(know)
      await refresh()
      notice.say(`${made.length} takes made: ${made.map((take) => take.name).join(', ')}.`, {
        label: 'Discard them',
        run: () => void Promise.all(made.map((take) => api.delete(`/takes/${take.id}`))).then(refresh),
      })
    },
    onError: notice.fault,
  })

  const sent = ref(0)
  const bring = useMutation({
    mutationFn: (file: File) => {
      sent.value = 0
      return upload<Take>(
        `/pictures/${toValue(pictureId)}/outside?name=${encodeURIComponent(file.name)}`, file, (done) => (sent.value = done),
        new AbortController().signal,
      )
    },
    onSuccess: async (take) => {
      know(take)
      await refresh()
      notice.say(`${take.outside} is laid on the picture as take ${take.name}.`, { label: 'Discard it', run: () => discard.mutate(take) })
    },
    onError: notice.fault,
  })

  return { takes: computed(() => takes.value ?? []), alter, order, discard, tryEngines, bring, sent, refresh }
}
