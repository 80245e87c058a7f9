import { describe, expect, test } from 'vitest'

import { fromSource, sourceScale, toSource, undistorted, type MappingPart } from './mapping'

/** What the core tells of a 300×200 px picture, tilted and bent, then turned and enlarged twice. */
const parts: MappingPart[] = [
  { affine: [0, 0.5, 0, -0.5, 0, 200], warp: null },
  {
    affine: null,
    warp: {
      middle: [150, 100],
      radius: Math.hypot(150, 100),
      bend: 0.12,
      gain: 0.88,
      matrix: [1, 0, 0, 0, 1, 0, 0, 0.0015, 0.85],
    },
  },
]

describe('mapping', () => {
  test('goes there and back', () => {
    for (const place of [
      [150, 100],
      [40, 30],
      [290, 160],
    ] as [number, number][]) {
      const there = fromSource(parts, place)
      const back = toSource(parts, there)
      expect(back[0]).toBeCloseTo(place[0], 6)
      expect(back[1]).toBeCloseTo(place[1], 6)
    }
  })

  test('leaves the middle of what is bent in its place, and tells how large pixels are', () => {
    expect(fromSource([parts[1]!], [150, 100])).toEqual([150, 100])
    expect(sourceScale(parts)).toBeCloseTo(0.5)
  })

  test('brings the corner of a bowed picture to where it was', () => {
    const [x, y] = undistorted(parts[1]!.warp!, [300, 200])
    expect(x).toBeCloseTo(300)
    expect(y).toBeCloseTo(200)
  })
})
