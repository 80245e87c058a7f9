import { describe, expect, test } from 'vitest'

import { bare, isBare, type Layout } from './layout'
import { formats, outputWarning, usualOutput, written } from './output'
import { formatText, secondsLeft, unfinished, type Delivery } from './useDeliveries'
import { secondsUntil } from './useQueue'

const start = new Date('2026-03-01T10:00:00Z').getTime()
const delivery = (id: string, state: Delivery['state'], more: Partial<Delivery> = {}) =>
  ({ id, state, progress: 0, expected_seconds: 60, started: null, ...more }) as Delivery
const running = (id: string, progress: number) =>
  delivery(id, 'running', { progress, started: new Date(start).toISOString() })

describe('what is left', () => {
  test('follows from how far it is and how long that took', () => {
    expect(secondsLeft(running('a', 0.25), start + 10_000)).toBeCloseTo(30)
    expect(secondsLeft(running('a', 1), start + 10_000)).toBe(0)
  })

  test('is not told before it can be known', () => {
    expect(secondsLeft(running('a', 0.02), start + 10_000)).toBeUndefined()
    expect(secondsLeft(delivery('a', 'queued'), start)).toBeUndefined()
  })

  test('is over once it is done, failed or cancelled', () => {
    for (const state of ['queued', 'paused', 'running'] as const) expect(unfinished(delivery('a', state))).toBe(true)
    for (const state of ['done', 'failed', 'cancelled'] as const) expect(unfinished(delivery('a', state))).toBe(false)
  })
})

describe('when each of the queue is made', () => {
  const until = (...queue: Delivery[]) => [...secondsUntil(queue, start + 10_000)]

  test('is after those before it', () => {
    expect(until(delivery('a', 'queued'), delivery('b', 'queued', { expected_seconds: 30 }))).toEqual([
      ['a', 60],
      ['b', 90],
    ])
  })

  test('counts what is left of one that runs', () => {
    const [first, second] = until(running('a', 0.5), delivery('b', 'queued'))
    expect(first).toEqual(['a', 10])
    expect(second).toEqual(['b', 70])
  })

  test('is sooner when two are made at once', () => {
    const last = until(running('a', 0.5), running('b', 0.5), delivery('c', 'queued')).at(-1)
    expect(last).toEqual(['c', 40])
  })

  test('goes by what was expected while a run is too young to tell', () => {
    expect(until(running('a', 0.01))).toEqual([['a', 60 * 0.99]])
  })

  test('is never for those that are held, and they hold up nobody', () => {
    expect(until(delivery('a', 'paused'), delivery('b', 'queued'))).toEqual([['b', 60]])
  })
})

describe('how a file is written', () => {
  test('formats that have 8 bits have 8, whatever was set', () => {
    for (const { value: format } of formats) {
      const eight = ['jpeg', 'webp', 'pdf'].includes(format)
      expect(written({ ...usualOutput, format }).depth).toBe(eight ? 8 : 16)
    }
    expect(written({ ...usualOutput, format: 'pdf', lossless: true }).depth).toBe(16)
  })

  test('floating point is TIFF in the space of the source', () => {
    const floats = { ...usualOutput, depth: 32 as const }
    expect(written(floats).depth).toBe(32)
    expect(written({ ...floats, format: 'png' }).depth).toBe(16)
    expect(written({ ...floats, profile: 'srgb' }).depth).toBe(16)
    expect(written({ ...floats, format: 'jpeg' }).depth).toBe(8)
  })

  test('is told in a few words', () => {
    expect(formatText(usualOutput)).toBe('TIFF 16 bit ZIP')
    expect(formatText({ ...usualOutput, compression: 'none' })).toBe('TIFF 16 bit uncompressed')
    expect(formatText({ ...usualOutput, format: 'png', depth: 8 })).toBe('PNG 8 bit')
    expect(formatText({ ...usualOutput, format: 'jpeg', quality: 88 })).toBe('JPEG 88')
    expect(formatText({ ...usualOutput, format: 'webp' })).toBe('WebP')
    expect(formatText({ ...usualOutput, format: 'pdf' })).toBe('PDF')
  })
})

describe('a layout', () => {
  test('is bare until something is around the picture', () => {
    expect(isBare(bare)).toBe(true)
    const around: Partial<Layout>[] = [
      { border_mm: 5 },
      { wrap_mm: 40 },
      { bleed_mm: 3 },
      { marks: true },
      { panels_down: 2 },
    ]
    for (const one of around) expect(isBare({ ...bare, ...one })).toBe(false)
  })

  test('is bare whatever colour nothing has', () => {
    expect(isBare({ ...bare, colour: '#123456', wrap: 'plain', overlap_mm: 10 })).toBe(true)
  })
})

describe('a wide space', () => {
  const pro = { ...usualOutput, profile: 'prophoto-rgb' as const }
  test('at 8 bit is warned of, whatever makes it 8 bit', () => {
    expect(outputWarning({ ...pro, format: 'webp' }, null)).toContain('Choose a smaller space')
    expect(outputWarning({ ...pro, depth: 8 }, null)).toContain('Choose 16 bit')
    expect(outputWarning({ ...usualOutput, format: 'jpeg' }, 'ProPhoto RGB (ROMM)')).toContain('ProPhoto RGB (ROMM)')
  })
  test('is fine at 16 bit, as a smaller one is at 8', () => {
    expect(outputWarning(pro, null)).toBe('')
    expect(outputWarning({ ...usualOutput, format: 'jpeg' }, 'sRGB')).toBe('')
    expect(outputWarning({ ...usualOutput, format: 'jpeg', profile: 'srgb' }, 'ProPhoto RGB')).toBe('')
  })
})
