import { computed, onScopeDispose, ref, watch } from 'vue'

import { picture } from '../api/client'
import type { Frame } from '../steps/frame'
import type { Take } from '../takes/useTake'
import { LiveSide } from './liveSide'

/** Pixels a side once it has rested for so many milliseconds. */
const [resting, patience] = [1280, 350]

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
  /** What has come to be shown while an answer was on its way. */
  let next: [Partial<Frame>, number | null] | null = null
  const passing = new LiveSide()
  let rests: ReturnType<typeof setTimeout> | undefined
  function show(now: string) {
    if (address.value.startsWith('blob:')) URL.revokeObjectURL(address.value)
    address.value = now
  }
  /** With so many pixels a side; null: as many as can be followed. */
  async function ask(wanted: Partial<Frame>, side: number | null) {
    if (asking) {
      next = [wanted, side]
      return
    }
    const mine = (asking = new AbortController())
    const asked = performance.now()
    try {
      const step = { kind: 'frame', outside: 'white', ...wanted }
      const blob = await picture(
        `/api/takes/${props.take.id}/live`,
        { steps: [step], side: side ?? passing.now },
        mine.signal,
      )
      if (!side) passing.adapt(performance.now() - asked)
      if (!mine.signal.aborted) show(URL.createObjectURL(blob))
    } catch {
      // What cannot be shown in passing is told when it is saved.
    } finally {
      if (asking === mine) asking = null
    }
    const waiting = next
    next = null
    if (waiting) void ask(...waiting)
  }
  function stop() {
    asking?.abort()
    asking = next = null
    clearTimeout(rests)
  }
  watch(
    [() => JSON.stringify(bent.value), plain],
    () => {
      clearTimeout(rests)
      const wanted = bent.value
      if (!wanted) {
        stop()
        show(plain.value)
        return
      }
      void ask(wanted, null)
      rests = setTimeout(() => void ask(wanted, resting), patience)
    },
    { immediate: true },
  )
  onScopeDispose(() => {
    stop()
    show('')
  })
  return address
}
