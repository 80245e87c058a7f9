import { describe, expect, test } from 'vitest'

import { divisorOf, levelAt, levelWithin, sideAt, tilesOfView } from './tileGrid'

const size = { width: 4000, height: 3000 }
const layer = { tiles: '/t', cuts: '/c', query: '', size, at: { x: 0, y: 0, width: 1 } }
const pane = { width: 500, height: 400 }
const at = (x: number, y: number, scale: number) => ({ x: x / size.width, y: y / size.width, scale })
const places = (addresses: string[]) =>
  addresses.map((address) => /\/(\d+)\/(\d+_\d+)\.png/.exec(address)!.slice(1).join(' '))

describe('the grid', () => {
  test.each([
    [8, 0],
    [1, 0],
    [0.7, 0],
    [0.5, 1],
    [0.25, 2],
    [0.083, 6],
    [0.07, 6],
  ])('of a scale of %f is looked at at level %i, as the viewer has it', (scale, level) => {
    expect(levelAt(scale)).toBe(level)
    expect(scale * divisorOf(level)).toBeGreaterThanOrEqual(level ? 0.75 : 0.6)
    if (level) expect(scale * divisorOf(level)).toBeLessThan(1.2)
  })

  test('has levels of twice and three times the powers of two', () => {
    expect([0, 1, 2, 3, 4, 5, 6, 7].map(divisorOf)).toEqual([1, 2, 3, 4, 6, 8, 12, 16])
    expect([512, 1024, 1025, 2048, 3000].map((width) => levelWithin({ width, height: 9 }, 512))).toEqual([
      0, 1, 2, 3, 4,
    ])
  })

  test('has small tiles at full size only', () => expect([0, 1, 5].map(sideAt)).toEqual([256, 512, 512]))
})

describe('the tiles of a view', () => {
  test('are those it sees, the middle first', () => {
    const { seen } = tilesOfView(layer, at(2000, 1500, 0.25), size, pane, 0)
    // 1000 to 3000 by 700 to 2300, at a third of the size.
    expect(places(seen).sort()).toEqual(['2 0_0', '2 0_1', '2 1_0', '2 1_1'])
    expect(places(seen)[0]).toBe('2 1_0')
  })

  test('are the parts of it at full size', () => {
    const { seen } = tilesOfView(layer, at(2000, 1500, 1), size, pane, 0)
    expect(seen).toEqual(['/c/1744_1296_512_416.png'])
  })

  test('and those beside, which it does not see', () => {
    const { seen, beside } = tilesOfView(layer, at(2000, 1500, 0.5), size, pane, 700)
    expect(beside.length).toBeGreaterThan(seen.length)
    expect(beside.filter((address) => seen.includes(address))).toEqual([])
    const around = places(tilesOfView(layer, at(2000, 1500, 1), size, pane, 200).beside)
    // Half of 6_5 is in view, all of 7_6 is not: 1750 to 2250 by 1300 to 1700.
    expect(around).toContain('0 6_5')
    expect(around).toContain('0 6_4')
    const large = { width: 1000, height: 1000 }
    expect(places(tilesOfView(layer, at(2000, 1500, 1), size, large, 200).beside)).not.toContain('0 7_6')
  })

  test('end at the borders', () => {
    expect(places(tilesOfView(layer, at(0, 0, 0.5), size, pane, 100).seen)).toEqual(['1 0_0'])
    expect(tilesOfView(layer, at(0, 0, 1), size, pane, 0).seen).toEqual(['/c/0_0_256_208.png'])
    const { seen, beside } = tilesOfView(layer, at(2000, 1500, 0.1), size, pane, 9000)
    expect([seen.length, beside.length]).toEqual([1, 0])
  })

  test('of a take that is framed differently lie elsewhere', () => {
    const half = { ...layer, size: { width: 2000, height: 3000 }, at: { x: 0.5, y: 0, width: 0.5 } }
    expect(places(tilesOfView(half, at(2000, 1500, 0.5), size, pane, 0).seen)).toEqual(['1 0_1'])
    expect(tilesOfView(half, at(500, 1500, 1), size, pane, 0).seen).toEqual([])
  })
})
