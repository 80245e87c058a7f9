import { onScopeDispose, ref, watch } from 'vue'

import { useLook } from '../viewer/useLook'
import type { Step, Take } from '../takes/useTake'
import { picture } from '../api/client'

const patience = 400

/** A cut of a result: its middle as shares of the result's width and height, and its size in pixels. */
export interface Cut {
  x: number
  y: number
  width: number
  height: number
}

/**
 * A cut of what a take would be with other steps, around what the large view looks at, or where `cut` has it; asked for
 * again once steps or view have been still for a moment.
 */
export function useTrial(
  take: () => Take,
  steps: () => Step[],
  size: { width: number; height: number },
  cut?: () => Cut | null,
) {
  const look = useLook()
  const source = ref('')
  const state = ref<'computing' | 'there' | 'failed'>('computing')
  const message = ref('')
  let stop: AbortController | undefined
  let timer: ReturnType<typeof setTimeout> | undefined

  function seen(): Cut {
    const density = window.devicePixelRatio || 1
    // Zoomed out it is shown at 100 %: noise is not seen from afar.
    const magnified = Math.max(1, look.scale) / density
    return {
      x: look.x,
      y: look.y,
      width: Math.max(1, Math.round(size.width / magnified)),
      height: Math.max(1, Math.round(size.height / magnified)),
    }
  }
  async function ask() {
    stop?.abort()
    const mine = (stop = new AbortController())
    state.value = 'computing'
    const where = cut ? cut() : seen()
    if (!where) return
    const body = { steps: steps(), ...where }
    try {
      const blob = await picture(`/api/takes/${take().id}/trial`, body, mine.signal)
      if (mine.signal.aborted) return
      URL.revokeObjectURL(source.value)
      source.value = URL.createObjectURL(blob)
      state.value = 'there'
    } catch (fault) {
      if (mine.signal.aborted) return
      state.value = 'failed'
      message.value = fault instanceof Error ? fault.message : String(fault)
    }
  }

  watch(
    () => JSON.stringify([take().id, steps(), cut ? cut() : look]),
    () => {
      state.value = 'computing'
      clearTimeout(timer)
      timer = setTimeout(ask, patience)
    },
    { immediate: true },
  )
  onScopeDispose(() => {
    clearTimeout(timer)
    stop?.abort()
    URL.revokeObjectURL(source.value)
  })
  return { source, state, message }
}
