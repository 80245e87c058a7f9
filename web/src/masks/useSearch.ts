import { toValue, type MaybeRefOrGetter } from 'vue'

import { answer, server } from '../api/client'
import { useLongWork } from '../parts/useLongWork'
import type { PartOf } from './parts'

/** A look for something in a whole picture. */
export function useSearch(pictureId: MaybeRefOrGetter<string>) {
  const params = () => ({ path: { picture_id: toValue(pictureId) } })
  const { share, begin, stop } = useLongWork('search', (signal) =>
    answer(server.GET('/api/pictures/{picture_id}/found', { params: params(), signal })),
  )
  /** The plane of what is sought; null if that was called off. */
  async function look(sought: PartOf<'found'>): Promise<string | null> {
    const body = { ...sought, plane: '' }
    const found = await begin((signal) =>
      answer(server.POST('/api/pictures/{picture_id}/found', { params: params(), body, signal })),
    )
    return found?.plane ?? null
  }
  return { share, look, stop }
}
