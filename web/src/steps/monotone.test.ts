import { describe, expect, test } from 'vitest'

import { curveThrough, movedPoint, straight, withoutPoint, withPoint, type Point } from './monotone'

const points: Point[] = [
  [0, 0],
  [0.25, 0.5],
  [0.5, 0.55],
  [1, 1],
]

describe('the curve', () => {
  test('goes through its points and rises between them', () => {
    const curve = curveThrough(points)
    for (const [x, y] of points) expect(curve(x)).toBeCloseTo(y, 9)
    const values = Array.from({ length: 101 }, (_, index) => curve(index / 100))
    values.slice(1).forEach((value, index) => expect(value).toBeGreaterThanOrEqual(values[index]!))
  })

  test('is the one the core computes', () => {
    // Of scipy's monotone cubic through the same points.
    const curve = curveThrough(points)
    expect(curve(0.1)).toBeCloseTo(0.271673, 4)
    expect(curve(0.4)).toBeCloseTo(0.530123, 4)
    expect(curve(0.8)).toBeCloseTo(0.757872, 4)
  })

  test('goes on straight beyond its ends', () => {
    const curve = curveThrough([
      [0.25, 0.1],
      [0.75, 0.9],
    ])
    expect(curve(-0.25)).toBeCloseTo(-0.7)
    expect(curve(1.25)).toBeCloseTo(1.7)
  })
})

test('a point is put in its place, and not on another', () => {
  expect(withPoint(points, [0.7, 0.9]).map(([x]) => x)).toEqual([0, 0.25, 0.5, 0.7, 1])
  expect(withPoint(points, [0.251, 0.9])).toBe(points)
})

test('a point does not pass its neighbours or leave the square', () => {
  expect(movedPoint(points, 1, [0.9, 1.4])[1]).toEqual([0.49, 1])
  expect(movedPoint(points, 3, [7, -1])[3]).toEqual([1, 0])
})

test('two points stay', () => {
  expect(withoutPoint(points, 1)).toHaveLength(3)
  expect(withoutPoint(points.slice(0, 2), 0)).toHaveLength(2)
})

test('a straight curve does nothing', () => {
  expect(straight([])).toBe(true)
  expect(straight(points)).toBe(false)
})
