import { beforeEach, describe, expect, test, vi } from 'vitest'

import type { Take } from '../takes/queries'
import { cellSize, cutAddress, cutAround, finenessOf, sourceAcross, startingZoom, zooms } from './cell'
import { finestFineness, finestOf, rowName, rowsOf, wantedOf } from './rows'
import type { Spot } from './useSpots'

const plan = (factor: number, chain: string) => ({
  chain,
  plain_chain: `plain-${chain}`,
  framed: { width: 400, height: 300 },
  size: { width: 400 * factor, height: 300 * factor },
})
const take = (id: string, factor: number) => ({ id, name: id, plan: plan(factor, `chain-${id}`) }) as Take
const spot = (id: string, places: Spot['places'], marks: Spot['marks'] = {}) => ({ id, places, marks }) as Spot

const twice = take('twice', 2)
const fourTimes = take('four', 4)
const seen = ({ plan }: Take) => ({ size: plan!.size, fineness: finenessOf(plan!) })
const own = (...takes: Take[]) => takes.map((take) => ({ take, scale: 1 }))
const cell = { width: 200, height: 100 }

const screen = { devicePixelRatio: 1 }
vi.stubGlobal('window', screen)
beforeEach(() => (screen.devicePixelRatio = 1))

describe('a cut', () => {
  test('at 100 % of the finest take is as many pixels as the cell has', () => {
    const cut = cutAround(seen(fourTimes), { x: 800, y: 600 }, 4, 1, 200, 100)
    expect(cut).toEqual({ x: 700, y: 550, width: 200, height: 100, magnified: 1 })
  })

  test('of a coarser take shows the same part of the picture, magnified', () => {
    const fine = cutAround(seen(fourTimes), { x: 800, y: 600 }, 4, 1, 200, 100)
    const coarse = cutAround(seen(twice), { x: 400, y: 300 }, 4, 1, 200, 100)
    expect(coarse.magnified).toBe(2)
    for (const side of ['x', 'y', 'width', 'height'] as const) expect(coarse[side] * 2).toBe(fine[side])
  })

  test('on a dense screen one pixel of the result is one of the screen', () => {
    screen.devicePixelRatio = 2
    const cut = cutAround(seen(fourTimes), { x: 800, y: 600 }, 4, 1, 200, 100)
    expect(cut).toMatchObject({ width: 400, height: 200, magnified: 0.5 })
  })

  test.each([
    { x: 0, y: 0 },
    { x: 1599, y: 1199 },
    { x: 3, y: 1190 },
  ])('near the edge at %o stays in the result', (place) => {
    const { x, y, width, height } = cutAround(seen(fourTimes), place, 4, 1, 200, 100)
    expect(Math.min(x, y)).toBeGreaterThanOrEqual(0)
    expect(x + width).toBeLessThanOrEqual(1600)
    expect(y + height).toBeLessThanOrEqual(1200)
  })

  test('is never larger than the result, however small it is drawn', () => {
    const cut = cutAround(seen(twice), { x: 1, y: 1 }, 4, 0.01, 200, 100)
    expect(cut).toMatchObject({ x: 0, y: 0, width: 800, height: 600 })
  })

  test('has its place in its address', () => {
    expect(cutAddress('t', 'c', { x: 1, y: 2, width: 3, height: 4, magnified: 1 })).toBe(
      '/api/takes/t/cuts/c/1_2_3_4.png',
    )
  })
})

describe('a cell', () => {
  test('begins so that it is recognised, whatever the take is enlarged by', () => {
    for (const finest of [1, 2, 4, 8]) {
      const zoom = startingZoom(124, finest)
      expect(zooms).toContain(zoom)
      if (zoom > zooms[0]!) expect(sourceAcross(124, zoom, finest)).toBeGreaterThanOrEqual(48)
      expect(sourceAcross(124, zoom, finest)).toBeLessThan(130)
    }
    expect([1, 4].map((finest) => startingZoom(124, finest))).toEqual([2, 0.5])
  })

  test('is larger the fewer there are, within bounds', () => {
    const room = { width: 1000, height: 300 }
    const widths = [12, 6, 4, 1].map((columns) => cellSize(room, columns, 2, 124).width)
    expect(widths).toEqual([...widths].sort((a, b) => a - b))
    expect(widths[0]).toBe(124)
    expect(Math.max(...widths)).toBeLessThanOrEqual(273)
    expect(cellSize(room, 2, 9, 124)).toEqual({ width: 124, height: 84 })
  })
})

describe('the rows', () => {
  const spots = [
    spot('a', { twice: { x: 100, y: 100 }, four: { x: 200, y: 200 } }, { four: 'good' }),
    // Outside of the crop of the coarser take.
    spot('b', { four: { x: 1500, y: 1100 } }),
  ]
  const rows = rowsOf(own(twice, fourTimes), spots, 1, cell)

  test('are the original and one for each take', () => {
    expect(rows.map(rowName)).toEqual(['original', 'twice', 'four'])
    expect(rowName(undefined)).toBe('original')
  })

  test('tell a place that a take does not show from one that it does', () => {
    expect(rows[1]!.cells.map((one) => one.address === null)).toEqual([false, true])
    expect(rows[2]!.cells.every((one) => one.address !== null)).toBe(true)
  })

  test('enlarge the original to what the finest take has', () => {
    expect(finestOf(own(twice, fourTimes))?.take).toBe(fourTimes)
    expect(finenessOf(fourTimes.plan!)).toBe(4)
    expect(rows[0]!.cells[0]!.address).toContain('/takes/four/cuts/plain-chain-four/')
    expect(rows[0]!.cells[0]!.cut).toEqual(rows[2]!.cells[0]!.cut)
  })

  test('carry what was thought of a take in a spot', () => {
    expect(rows.map((row) => row.cells[0]!.mark)).toEqual(['', '', 'good'])
  })

  test('of another picture of the same show the same part, whatever its size', () => {
    // Its source is twice as fine: enlarged twice it has as many pixels as the other enlarged four times.
    const other = { take: take('other', 2), from: 'the fused one', scale: 2 }
    const places = { four: { x: 200, y: 200 }, other: { x: 200, y: 200 } }
    const [original, first, second] = rowsOf([...own(fourTimes), other], [spot('a', places)], 1, cell)
    expect(rowName(second)).toBe('other of the fused one')
    expect(second!.cells[0]!.cut).toEqual(first!.cells[0]!.cut)
    expect(original!.cells[0]!.address).toContain('/takes/four/')
    expect(finestFineness([...own(twice), other])).toBe(4)
  })

  test('are none without a take', () => {
    expect(rowsOf([], spots, 1, cell)).toEqual([])
  })
})

describe('what is wanted', () => {
  const places = { four: { x: 200, y: 200 }, twice: { x: 100, y: 100 } }
  const rows = rowsOf(
    own(twice, fourTimes),
    ['a', 'b', 'c'].map((id) => spot(id, places)),
    1,
    cell,
  )
  const urgencies = (top: number, left: number, near = { row: 0, column: 0 }) =>
    wantedOf(rows, cell, { top, left, width: 200, height: 200 }, near).map(({ urgency }) => urgency)

  test('is every cell once', () => {
    expect(urgencies(0, 0)).toHaveLength(9)
  })

  test('comes first where it can be seen', () => {
    const seen = urgencies(0, 0).map((urgency) => urgency < 1000)
    expect(seen).toEqual([true, false, false, true, false, false, false, false, false])
    const scrolled = urgencies(100, 400).map((urgency) => urgency < 1000)
    expect(scrolled).toEqual([false, false, false, false, false, true, false, false, true])
  })

  test('has the original before the takes, and the near before the far', () => {
    const [original, , , first] = urgencies(0, 0)
    expect(original).toBeLessThan(first!)
    const [, , , , , , left, middle, right] = urgencies(0, 0, { row: 2, column: 2 })
    expect(right).toBeLessThan(middle!)
    expect(middle).toBeLessThan(left!)
  })
})
