import { computed, onScopeDispose, ref, watch } from 'vue'

import { picture } from '../api/client'
import type { Frame } from '../steps/frame'
import type { Take } from '../takes/useTake'

const side = 1280

/**
 * The address of the source as the frame is drawn on it: as it came or, if lines are bent, with them straightened and as large
 * as before. While perspective is being drawn, only distortion is undone.
 */
export function useBentSource(props: { step: Frame; take: Take; picture: { id: string } }, drawing: () => boolean) {
  const plain = computed(() => `/api/pictures/${props.picture.id}/screen`)
  const address = ref(plain.value)
  const bent = computed(() => {
    const { distortion, vertical, horizontal, corners } = props.step
    const shown = drawing() ? { distortion } : { distortion, vertical, horizontal, corners }
    return Object.values(shown).some(Boolean) ? shown : null
  })
  let asking: AbortController | null = null
  function show(now: string) {
    if (address.value.startsWith('blob:')) URL.revokeObjectURL(address.value)
    address.value = now
  }
  async function ask(wanted: Partial<Frame>) {
    const mine = (asking = new AbortController())
    try {
      const step = { kind: 'frame', outside: 'white', ...wanted }
      const blob = await picture(`/api/takes/${props.take.id}/live`, { steps: [step], side }, mine.signal)
      if (!mine.signal.aborted) show(URL.createObjectURL(blob))
    } catch {
      // What cannot be shown in passing is told when it is saved.
    }
  }
  watch(
    [() => JSON.stringify(bent.value), plain],
    () => {
      asking?.abort()
      if (bent.value) void ask(bent.value)
      else show(plain.value)
    },
    { immediate: true },
  )
  onScopeDispose(() => {
    asking?.abort()
    show('')
  })
  return address
}
