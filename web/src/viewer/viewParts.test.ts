import { beforeEach, describe, expect, test } from 'vitest'

import { partsOf, ViewParts, type Part } from './viewParts'

const layer = {
  tiles: '/t',
  cuts: '/c',
  query: '',
  size: { width: 4000, height: 3000 },
  at: { x: 0, y: 0, width: 1 },
}

describe('the parts of a view', () => {
  test('are one, in whole steps, where it is no larger than what is computed at once', () => {
    const parts = partsOf(layer, { left: 100.4, top: 200, right: 1060.2, bottom: 815 })
    expect(parts).toEqual([{ x: 96, y: 192, width: 976, height: 624 }])
  })

  test('end at the borders, odd as they may be', () => {
    const odd = { ...layer, size: { width: 333, height: 211 } }
    expect(partsOf(odd, { left: -50, top: -20, right: 900, bottom: 900 })).toEqual([
      { x: 0, y: 0, width: 333, height: 211 },
    ])
    expect(partsOf(odd, { left: 400, top: 0, right: 900, bottom: 900 })).toEqual([])
  })

  test('are several of about the same size in a large window, and share a rim', () => {
    const parts = partsOf(layer, { left: 0, top: 0, right: 3200, bottom: 1000 })
    expect(parts.map(({ x, width }) => [x, width])).toEqual([
      [0, 1074],
      [1072, 1074],
      [2144, 1056],
    ])
    const covered = new Set(parts.flatMap(({ x, width }) => Array.from({ length: width }, (_, index) => x + index)))
    expect(covered.size).toBe(3200)
  })

  test('of one that moved by less than a pixel are the same', () => {
    const edges = { left: 160, top: 320, right: 1120, bottom: 640 }
    const moved = { left: 160.004, top: 319.996, right: 1120.004, bottom: 639.996 }
    expect(partsOf(layer, moved)).toEqual(partsOf(layer, edges))
  })
})

describe('what is loaded', () => {
  const part = (x: number, y = 0, side = 100): Part => ({ x, y, width: side, height: side })
  let asked: { part: Part; came: (drawn: string | null) => void; stopped: boolean }[]
  let dropped: string[]
  let parts: ViewParts<string>

  beforeEach(() => {
    asked = []
    dropped = []
    parts = new ViewParts<string>({
      load: (part, came) => {
        const one = { part, came, stopped: false }
        asked.push(one)
        return () => (one.stopped = true)
      },
      drop: (drawn) => dropped.push(drawn),
    })
  })

  test('is what is in view, once', () => {
    parts.want([part(0), part(100)])
    parts.want([part(0), part(100)])
    expect(asked.map((one) => one.part.x)).toEqual([0, 100])
    asked[0]!.came('left')
    expect(parts.cover([part(0)])).toBe(true)
    expect(parts.cover([part(0), part(100)])).toBe(false)
    asked[1]!.came('right')
    expect(parts.cover([part(0), part(100)])).toBe(true)
    expect(parts.drawn).toEqual(['left', 'right'])
  })

  test('serves a view inside what is there', () => {
    parts.want([part(0, 0, 300)])
    asked[0]!.came('whole')
    parts.want([part(50, 50)])
    expect(asked).toHaveLength(1)
    expect(parts.cover([part(50, 50)])).toBe(true)
  })

  test('is called off when it is in view no more, and what comes late is dropped', () => {
    parts.want([part(0)])
    parts.want([part(500)])
    expect(asked[0]!.stopped).toBe(true)
    asked[0]!.came('late')
    expect(dropped).toEqual(['late'])
    expect(parts.drawn).toEqual([])
  })

  test('stays for a while beside what is in view', () => {
    for (let index = 0; index < 8; index++) {
      parts.want([part(1000 * index)])
      asked[index]!.came(`${index}`)
    }
    expect(dropped).toEqual(['0', '1', '2'])
    expect(parts.drawn).toEqual(['3', '4', '5', '6', '7'])
    expect(parts.cover([part(4000)])).toBe(true)
  })

  test('stays until the new view is there', () => {
    for (let index = 0; index < 7; index++) parts.want([part(1000 * index)])
    expect(dropped).toEqual([])
    asked[6]!.came('last')
    expect(parts.cover([part(6000)])).toBe(true)
  })

  test('says what could not be had, until something else is asked for', () => {
    parts.want([part(0)])
    asked[0]!.came(null)
    expect(parts.failed).toBe(true)
    parts.want([part(500)])
    expect(parts.failed).toBe(false)
  })

  test('goes', () => {
    parts.want([part(0), part(100)])
    asked[0]!.came('left')
    parts.clear()
    expect(dropped).toEqual(['left'])
    expect(asked[1]!.stopped).toBe(true)
    parts.want([part(0), part(100)])
    expect(asked).toHaveLength(4)
  })
})
