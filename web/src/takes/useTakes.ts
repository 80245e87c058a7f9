import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, toValue, type MaybeRefOrGetter } from 'vue'

import { answer, server, upload } from '../api/client'
import { useNotice } from '../parts/useNotice'
import { takeQueries, type Take } from './queries'

export type { Take } from './queries'

/** All takes of a picture, from the top, and what can be done with them besides changing their steps. */
export function useTakes(pictureId: MaybeRefOrGetter<string>) {
  const client = useQueryClient()
  const notice = useNotice()
  const query = computed(() => takeQueries.all(toValue(pictureId)))
  const { data: takes } = useQuery(query)

  async function refresh() {
    await Promise.all([
      client.invalidateQueries({ queryKey: query.value.queryKey }),
      // Another picture's board may show them as well.
      client.invalidateQueries({ queryKey: ['spots'] }),
      client.invalidateQueries({ queryKey: ['pictures'] }),
    ])
  }
  function know(take: Take) {
    client.setQueryData(takeQueries.one(take.id).queryKey, take)
  }

  const alter = useMutation({
    mutationFn: ({
      id,
      ...told
    }: {
      id: string
      name?: string
      note?: string
      verdict?: Take['verdict']
      chosen?: boolean
    }) => answer(server.PATCH('/api/takes/{take_id}', { params: { path: { take_id: id } }, body: told })),
    onSuccess: (take) => {
      know(take)
      return refresh()
    },
    onError: notice.fault,
  })
  const order = useMutation({
    mutationFn: (ids: string[]) =>
      answer(
        server.POST('/api/pictures/{picture_id}/takes/order', {
          params: { path: { picture_id: toValue(pictureId) } },
          body: { ids },
        }),
      ),
    onMutate: (ids) => {
      client.setQueryData(
        query.value.queryKey,
        (now) => now && ids.flatMap((id) => now.find((take) => take.id === id) ?? []),
      )
    },
    onSettled: refresh,
    onError: notice.fault,
  })
  const restore = useMutation({
    mutationFn: (id: string) =>
      answer(server.POST('/api/takes/{take_id}/restore', { params: { path: { take_id: id } } })),
    onSuccess: refresh,
    onError: notice.fault,
  })
  const discard = useMutation({
    mutationFn: (take: Take) =>
      answer(server.DELETE('/api/takes/{take_id}', { params: { path: { take_id: take.id } } })),
    onSuccess: (_, take) => {
      notice.say(`Take ${take.name} is discarded.`, { label: 'Bring back', run: () => restore.mutate(take.id) })
      return refresh()
    },
    onError: notice.fault,
  })
  const tryEngines = useMutation({
    mutationFn: ({ id, engines }: { id: string; engines: string[] }) =>
      answer(server.POST('/api/takes/{take_id}/engines', { params: { path: { take_id: id } }, body: { engines } })),
    onSuccess: async (made) => {
      made.forEach(know)
      await refresh()
      notice.say(`${made.length} takes made: ${made.map((take) => take.name).join(', ')}.`, {
        label: 'Discard them',
        run: () =>
          void Promise.all(
            made.map((take) =>
              answer(server.DELETE('/api/takes/{take_id}', { params: { path: { take_id: take.id } } })),
            ),
          ).then(refresh),
      })
    },
    onError: notice.fault,
  })

  const sent = ref(0)
  const bring = useMutation({
    mutationFn: (file: File) => {
      sent.value = 0
      return upload<Take>(
        `/api/pictures/${toValue(pictureId)}/outside?name=${encodeURIComponent(file.name)}`,
        file,
        (done) => (sent.value = done),
        new AbortController().signal,
      )
    },
    onSuccess: async (take) => {
      know(take)
      await refresh()
      notice.say(`${take.outside} is laid on the picture as take ${take.name}.`, {
        label: 'Discard it',
        run: () => discard.mutate(take),
      })
    },
    onError: notice.fault,
  })

  return { takes: computed(() => takes.value ?? []), alter, order, discard, tryEngines, bring, sent, refresh }
}
