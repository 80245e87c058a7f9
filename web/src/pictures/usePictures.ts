import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { toValue, type MaybeRefOrGetter } from 'vue'

import { api, type Schemas } from '../api/client'

export type Picture = Schemas['PictureOut']
export type Facts = Schemas['Facts']

/** How often to ask again until every picture has been read; not for ever, should no worker be there. */
function untilRead(pictures: Picture[] | undefined, asked: number): number | false {
  return asked < 60 && pictures?.some((one) => !one.reading) ? 2000 : false
}

export function usePictures(jobId: MaybeRefOrGetter<string>) {
  return useQuery({
    queryKey: ['pictures', 'of', jobId],
    queryFn: ({ signal }) => api.get<Picture[]>(`/jobs/${toValue(jobId)}/pictures`, signal),
    refetchInterval: ({ state }) => untilRead(state.data, state.dataUpdateCount),
  })
}

export function usePicture(id: MaybeRefOrGetter<string>) {
  return useQuery({
    queryKey: ['pictures', id],
    queryFn: ({ signal }) => api.get<Picture>(`/pictures/${toValue(id)}`, signal),
    refetchInterval: ({ state }) => untilRead(state.data && [state.data], state.dataUpdateCount),
  })
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
    remove: useMutation({ mutationFn: (id: string) => api.delete(`/pictures/${id}`), onSuccess: refresh }),
    restore: useMutation({ mutationFn: (id: string) => api.post(`/pictures/${id}/restore`), onSuccess: refresh }),
  }
}
