import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'

import { answer, server } from '../api/client'
import { pictureQueries, type Picture } from './queries'

export type { Facts, Picture } from './queries'

interface Asked<Data> {
  state: { data: Data | undefined; dataUpdateCount: number }
}

/** How often to ask again until every picture has been read; not for ever, should no worker be there. */
function untilRead(pictures: Picture[] | undefined, asked: number): number | false {
  return asked < 60 && pictures?.some((one) => !one.reading) ? 2000 : false
}

export function usePictures(jobId: MaybeRefOrGetter<string>) {
  return useQuery(
    computed(() => ({
      ...pictureQueries.all(toValue(jobId)),
      refetchInterval: ({ state }: Asked<Picture[]>) => untilRead(state.data, state.dataUpdateCount),
    })),
  )
}

export function usePicture(id: MaybeRefOrGetter<string>) {
  const client = useQueryClient()
  /** The picture as the list of a job has told it, and when. */
  const listed = (wanted: string) =>
    client
      .getQueryCache()
      .findAll({ queryKey: ['pictures', 'of'] })
      .flatMap(({ state }) =>
        ((state.data ?? []) as Picture[]).map((picture) => ({ picture, when: state.dataUpdatedAt })),
      )
      .find(({ picture }) => picture.id === wanted)
  return useQuery(
    computed(() => ({
      ...pictureQueries.one(toValue(id)),
      initialData: () => listed(toValue(id))?.picture,
      initialDataUpdatedAt: () => listed(toValue(id))?.when,
      refetchInterval: ({ state }: Asked<Picture>) => untilRead(state.data && [state.data], state.dataUpdateCount),
    })),
  )
}

/** Take pictures out of a job and bring them back. */
export function usePictureChanges() {
  const client = useQueryClient()
  const refresh = () => {
    void client.invalidateQueries({ queryKey: ['pictures'] })
    void client.invalidateQueries({ queryKey: ['jobs'] })
  }
  return {
    refresh,
    remove: useMutation({
      mutationFn: (id: string) =>
        answer(server.DELETE('/api/pictures/{picture_id}', { params: { path: { picture_id: id } } })),
      onSuccess: refresh,
    }),
    restore: useMutation({
      mutationFn: (id: string) =>
        answer(server.POST('/api/pictures/{picture_id}/restore', { params: { path: { picture_id: id } } })),
      onSuccess: refresh,
    }),
  }
}
