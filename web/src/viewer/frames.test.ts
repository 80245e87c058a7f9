import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest'

import { Frames } from './frames'

beforeEach(() => {
  vi.useFakeTimers()
  vi.stubGlobal('requestAnimationFrame', (frame: FrameRequestCallback) =>
    setTimeout(() => frame(performance.now()), 16),
  )
  vi.stubGlobal('cancelAnimationFrame', (handle: number) => clearTimeout(handle))
})
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
})

/** How many frames somebody gets who asks for the next one in each. */
function asked(frames: Frames) {
  const counted = { frames: 0, last: 0 }
  const next = () => {
    counted.frames++
    counted.last = frames.request(next)
  }
  counted.last = frames.request(next)
  return counted
}

describe('frames', () => {
  test('are few at rest', () => {
    const counted = asked(new Frames())
    vi.advanceTimersByTime(1000)
    expect(counted.frames).toBeGreaterThan(5)
    expect(counted.frames).toBeLessThan(9)
  })

  test('are none of the browser at rest, where nothing is drawn', () => {
    const browsers = vi.fn(requestAnimationFrame)
    vi.stubGlobal('requestAnimationFrame', browsers)
    const counted = asked(new Frames())
    vi.advanceTimersByTime(1000)
    expect(counted.frames).toBeGreaterThan(5)
    expect(browsers).not.toHaveBeenCalled()
  })

  test('are as many as the screen has once something happens, the first at once', () => {
    const frames = new Frames()
    const counted = asked(frames)
    frames.wake()
    vi.advanceTimersByTime(17)
    expect(counted.frames).toBe(1)
    vi.advanceTimersByTime(80)
    expect(counted.frames).toBeGreaterThan(4)
    vi.advanceTimersByTime(150)
    const lively = counted.frames
    vi.advanceTimersByTime(1000)
    expect(counted.frames - lively).toBeLessThan(12)
  })

  test('end when they are called off, at rest and on their way', () => {
    const frames = new Frames()
    const resting = asked(frames)
    frames.cancel(resting.last)
    frames.wake()
    const running = asked(frames)
    frames.cancel(running.last)
    vi.advanceTimersByTime(1000)
    expect([resting.frames, running.frames]).toEqual([0, 0])
  })
})
