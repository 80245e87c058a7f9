import { ref } from 'vue'

import { answer, server } from '../api/client'
import { useLongWork } from '../parts/useLongWork'
import { useNotice } from '../parts/useNotice'
import { dismiss, patching } from './patches'

/** A look for dust, scratches and creases in what a step is given. */
export function useBlemishes() {
  const notice = useNotice()
  const path = ref({ take_id: '', index: 0 })
  const address = '/api/takes/{take_id}/steps/{index}/blemishes'
  const { share, begin, stop } = useLongWork('blemishes', (signal) =>
    answer(server.GET(address, { params: { path: path.value }, signal })),
  )

  async function find(takeId: string, index: number) {
    path.value = { take_id: takeId, index }
    dismiss()
    try {
      const found = await begin((signal) => answer(server.POST(address, { params: { path: path.value }, signal })))
      if (found?.length) patching.found = found
      else if (found) notice.say('No dust, scratch or crease was found.')
    } catch (fault) {
      notice.fault(fault)
    }
  }
  return { share, find, stop }
}
