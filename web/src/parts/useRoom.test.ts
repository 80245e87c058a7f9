import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest'
import { ref } from 'vue'
import type * as Vue from 'vue'

import { useRoom } from './useRoom'

const life = vi.hoisted(() => ({ begin: () => {}, end: () => {} }))
vi.mock('vue', async (original) => ({
  ...(await original<typeof Vue>()),
  onMounted: (begin: () => void) => (life.begin = begin),
  onBeforeUnmount: (end: () => void) => (life.end = end),
}))

describe('the room of an element', () => {
  let grown: (width: number, height: number) => void
  const disconnect = vi.fn()

  beforeEach(() => {
    disconnect.mockClear()
    vi.stubGlobal(
      'ResizeObserver',
      class {
        disconnect = disconnect
        observe = () => {}
        constructor(told: (entries: { contentRect: { width: number; height: number } }[]) => void) {
          grown = (width, height) => told([{ contentRect: { width, height } }])
        }
      },
    )
  })
  afterEach(() => vi.unstubAllGlobals())

  const layer = () => ref({ clientWidth: 800, clientHeight: 600 } as HTMLElement)

  test('is known before the observer tells of it, so that an early click hits what is under it', () => {
    const room = useRoom(layer())
    life.begin()
    expect(room.value).toEqual({ width: 800, height: 600 })
  })

  test('follows the element until it goes', () => {
    const room = useRoom(layer())
    life.begin()
    grown(500, 400)
    expect(room.value).toEqual({ width: 500, height: 400 })
    life.end()
    expect(disconnect).toHaveBeenCalledOnce()
  })
})
