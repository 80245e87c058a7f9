import { describe, expect, test } from 'vitest'

import { flipped, inside, ratios, shaped, turned, type Crop, type Frame } from './frame'
import { kindOf } from './kinds'

const canvas = { width: 600, height: 400 }
const crop: Crop = { x: 50, y: 20, width: 200, height: 300 }
const framed: Frame = { ...(kindOf('frame').begun as Frame), crop }
const across = ({ width, height }: { width: number; height: number }) => ({ width: height, height: width })

describe('turned', () => {
  test('a quarter there and a quarter back is nothing', () => {
    const there = turned(framed, 1, canvas, crop)
    expect(turned(there, 3, across(canvas), there.crop!)).toEqual(framed)
  })

  test('four quarters are none', () => {
    let step = framed
    let size = canvas
    for (let quarter = 0; quarter < 4; quarter++) {
      step = turned(step, 1, size, step.crop!)
      size = across(size)
    }
    expect(step).toEqual(framed)
  })

  test('clockwise, what was at the left is at the top', () => {
    const left: Crop = { x: 0, y: 0, width: 100, height: 400 }
    expect(turned({ ...framed, crop: left }, 1, canvas, left).crop).toEqual({ x: 0, y: 0, width: 400, height: 100 })
  })

  test('a flipped picture is turned the way it is seen', () => {
    // The step turns before it flips: to see it go clockwise, it is turned the other way.
    expect(turned({ ...framed, flip: true, turns: 0 }, 1, canvas, crop).turns).toBe(3)
    expect(turned({ ...framed, flip: true, turns: 0 }, 3, canvas, crop).turns).toBe(1)
  })

  test('without a crop it is only turned', () => {
    const step = turned({ ...framed, crop: null }, 1, canvas, { x: 0, y: 0, ...canvas })
    expect(step).toEqual({ ...framed, crop: null, turns: 1 })
  })
})

describe('flipped', () => {
  test('twice is nothing', () => {
    const tilted = { ...framed, angle: 2.5 }
    const there = flipped(tilted, canvas, crop)
    expect(there).toMatchObject({ flip: true, angle: -2.5, crop: { x: 350, y: 20, width: 200, height: 300 } })
    expect(flipped(there, canvas, there.crop!)).toEqual(tilted)
  })

  test('what is not tilted has an angle of plain zero', () => {
    expect(Object.is(flipped(framed, canvas, crop).angle, 0)).toBe(true)
  })
})

describe('inside', () => {
  test.each<[Crop, Pick<Crop, 'x' | 'y'>]>([
    [
      { ...crop, x: -30, y: -1 },
      { x: 0, y: 0 },
    ],
    [
      { ...crop, x: 500, y: 380 },
      { x: 400, y: 100 },
    ],
    [crop, { x: 50, y: 20 }],
  ])('%o is moved and keeps its size', (given, at) => {
    expect(inside(given, canvas)).toEqual({ ...given, ...at })
  })
})

describe('shaped', () => {
  const shapes = [1, 3 / 2, 2 / 3, 16 / 9, 5, 0.1]
  const crops: Crop[] = [
    crop,
    { x: 0, y: 0, ...canvas },
    { x: 590, y: 390, width: 10, height: 10 },
    { x: 0, y: 399, width: 600, height: 1 },
  ]

  test.each(shapes)('a crop of shape %d lies in the canvas and has that shape', (ratio) => {
    for (const given of crops) {
      const made = shaped(given, canvas, ratio)
      expect(made.x).toBeGreaterThanOrEqual(0)
      expect(made.y).toBeGreaterThanOrEqual(0)
      expect(made.x + made.width).toBeLessThanOrEqual(canvas.width)
      expect(made.y + made.height).toBeLessThanOrEqual(canvas.height)
      // Both sides are whole pixels.
      expect(Math.abs(made.width - made.height * ratio)).toBeLessThanOrEqual(Math.max(1, ratio))
    }
  })

  test('what was in the crop stays in it where there is room', () => {
    const made = shaped({ x: 100, y: 100, width: 90, height: 60 }, canvas, 1)
    expect(made).toEqual({ x: 100, y: 85, width: 90, height: 90 })
  })
})

describe('ratios', () => {
  const order = { width: 40, height: 60, unit: 'cm' as const, ppi: 300 }

  test('they lie or stand as the picture does', () => {
    for (const size of [canvas, across(canvas)]) {
      const lying = size.width > size.height
      for (const { ratio, value } of ratios(size, order)) {
        if (ratio === null || value === 'square') continue
        expect(ratio > 1).toBe(lying)
      }
    }
  })

  test('that of the order is offered only with an order', () => {
    expect(ratios(canvas, null).some(({ value }) => value === 'order')).toBe(false)
    expect(ratios(canvas, order).find(({ value }) => value === 'order')).toEqual({
      value: 'order',
      title: 'The order, 40 × 60 cm',
      ratio: 1.5,
    })
  })
})
