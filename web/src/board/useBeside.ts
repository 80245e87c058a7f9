import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'

import { answer, server } from '../api/client'
import { useNotice } from '../parts/useNotice'
import { pictureQueries, type Picture } from '../pictures/queries'
import { takeQueries } from '../takes/queries'
import { boardQueries } from './queries'
import type { RowTake } from './rows'

/** Whether two pictures may show the same: one frame of a clip and several fused, a raw and what its camera made of it. */
export const alike = (one: Picture, other: Picture) =>
  one.id !== other.id &&
  Math.abs((one.facts.width * other.facts.height) / (one.facts.height * other.facts.width) - 1) < 0.01

/** Another picture of the same whose takes stand on the board of a picture as well. */
export function useBeside(picture: MaybeRefOrGetter<Picture>) {
  const client = useQueryClient()
  const notice = useNotice()
  const id = computed(() => toValue(picture).beside_id ?? '')
  const { data: pictures } = useQuery(computed(() => pictureQueries.all(toValue(picture).job_id)))
  const { data: found } = useQuery(computed(() => ({ ...takeQueries.all(id.value), enabled: Boolean(id.value) })))

  const choices = computed(() => (pictures.value ?? []).filter((one) => alike(one, toValue(picture))))
  const other = computed(() => choices.value.find((one) => one.id === id.value))
  const takes = computed<RowTake[]>(() => {
    const from = other.value
    if (!from) return []
    const scale = from.facts.width / toValue(picture).facts.width
    return (found.value ?? []).filter((take) => take.plan).map((take) => ({ take, from: from.name, scale }))
  })
  const choose = useMutation({
    mutationFn: (wanted: string | null) =>
      answer(
        server.PUT('/api/pictures/{picture_id}/beside', {
          params: { path: { picture_id: toValue(picture).id } },
          body: { picture_id: wanted },
        }),
      ),
    onSuccess: (spots) => {
      client.setQueryData(boardQueries.spots(toValue(picture).id).queryKey, spots)
      return client.invalidateQueries({ queryKey: ['pictures'] })
    },
    onError: notice.fault,
  })
  return { choices, other, takes, choose }
}
