import { useMutation, useQueryClient } from '@tanstack/vue-query'

import { answer, server } from '../api/client'
import { useNotice } from '../parts/useNotice'
import type { Step, Take } from '../takes/useTake'

/** New takes of a picture, once what is changed in the one that is shown is saved; each is shown by `show`. */
export function useNewTakes(
  pictureId: () => string,
  settle: () => Promise<void>,
  refresh: () => Promise<unknown>,
  show: (takeId: string) => void,
) {
  const client = useQueryClient()
  const notice = useNotice()

  async function made(take: Take) {
    client.setQueryData(['takes', take.id], take)
    await refresh()
    show(take.id)
  }
  /** Of these steps. */
  const begin = useMutation({
    mutationFn: async (steps: Step[]) => {
      await settle()
      return answer(
        server.POST('/api/pictures/{picture_id}/takes', {
          params: { path: { picture_id: pictureId() } },
          body: { steps },
        }),
      )
    },
    onSuccess: made,
    onError: notice.fault,
  })
  /** Of the steps that the reading suggests. */
  const suggest = useMutation({
    mutationFn: () =>
      answer(server.POST('/api/pictures/{picture_id}/suggested', { params: { path: { picture_id: pictureId() } } })),
    onSuccess: async (take) => {
      await made(take)
      notice.say(`Take ${take.name} is made of the suggested steps; the other takes are as they were.`)
    },
    onError: notice.fault,
  })
  /** Of a candidate of the rehearsal, by its place. */
  const rehearsed = useMutation({
    mutationFn: (place: number) =>
      answer(
        server.POST('/api/pictures/{picture_id}/rehearsal/{place}/take', {
          params: { path: { picture_id: pictureId(), place } },
        }),
      ),
    onSuccess: async (take) => {
      await made(take)
      notice.say(`Take ${take.name} is made of the rehearsed steps; the other takes are as they were.`)
    },
    onError: notice.fault,
  })
  /** Of the JPEG that the camera made beside its raw. */
  const camera = useMutation({
    mutationFn: () =>
      answer(server.POST('/api/pictures/{picture_id}/camera-jpeg', { params: { path: { picture_id: pictureId() } } })),
    onSuccess: async (take) => {
      client.setQueryData(['takes', take.id], take)
      await refresh()
      notice.say(`${take.outside} is laid on the picture as take ${take.name}, to be compared.`)
    },
    onError: notice.fault,
  })
  return { begin, suggest, rehearsed, camera }
}
