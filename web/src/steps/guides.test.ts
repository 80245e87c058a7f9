import { describe, expect, test } from 'vitest'

import { unwarped, type Point } from '../viewer/mapping'
import type { Frame } from './frame'
import { cornered, fromCanvas, toCanvas, uprighted, type Four, type Line } from './guides'

const source = { width: 3000, height: 2000 }
const frame = (changed: Partial<Frame> = {}): Frame =>
  ({ kind: 'frame', on: true, turns: 0, flip: false, angle: 0, crop: null, corners: null, ...changed }) as Frame

/** Where the core would bring a place of the source: tilted, turned, flipped and straightened. */
function seen(step: Frame, point: Point): Point {
  const [x, y] = [source.width / 2, source.height / 2]
  const [g, h] = [(0.004 * (step.horizontal ?? 0)) / x, (0.004 * (step.vertical ?? 0)) / y]
  // The tilt about the middle: T⁻¹ · (1 + g·dx + h·dy) · T.
  const matrix = [
    1 + x * g,
    x * h,
    -x * (x * g + y * h),
    y * g,
    1 + y * h,
    -y * (x * g + y * h),
    g,
    h,
    1 - x * g - y * h,
  ]
  const flat = unwarped({ middle: [x, y], radius: 1, bend: 0, gain: 1, matrix }, point)
  const [across, down] = toCanvas(step, source, flat)
  const canvas = step.turns % 2 ? [source.height, source.width] : [source.width, source.height]
  const radians = ((step.angle ?? 0) * Math.PI) / 180
  const [dx, dy] = [across - canvas[0]! / 2, down - canvas[1]! / 2]
  return [Math.cos(radians) * dx - Math.sin(radians) * dy, Math.sin(radians) * dx + Math.cos(radians) * dy]
}
const facade: Line[] = [
  [
    [900, 300],
    [700, 1800],
  ],
  [
    [2200, 250],
    [2500, 1750],
  ],
]
const sills: Line[] = [
  [
    [800, 500],
    [2300, 400],
  ],
  [
    [700, 1500],
    [2400, 1600],
  ],
]

describe('lines that should be upright', () => {
  for (const turned of [{}, { flip: true }, { turns: 2, flip: true }] as Partial<Frame>[]) {
    test(`two of them are, with ${JSON.stringify(turned)}`, () => {
      const step = uprighted(frame(turned), source, facade)!
      for (const line of facade) {
        const [a, b] = line.map((point) => seen(step, point)) as Line
        expect(Math.abs(a[0] - b[0])).toBeLessThan(0.6)
        expect(Math.abs(a[1] - b[1])).toBeGreaterThan(500)
      }
    })
  }

  test('on a turned picture they are the level ones', () => {
    const step = uprighted(frame({ turns: 1 }), source, sills)!
    for (const line of sills) {
      const [a, b] = line.map((point) => seen(step, point)) as Line
      expect(Math.abs(a[0] - b[0])).toBeLessThan(0.6)
    }
  })

  test('two upright and two level ones are a front seen straight on', () => {
    const step = uprighted(frame(), source, [...facade, ...sills])!
    const angles = [...facade, ...sills].map((line) => {
      const [a, b] = line.map((point) => seen(step, point)) as Line
      return Math.atan2(b[1] - a[1], b[0] - a[0])
    })
    expect(Math.abs(angles[0]! - angles[1]!)).toBeLessThan(1e-3)
    expect(Math.abs(angles[2]! - angles[3]!)).toBeLessThan(1e-3)
    expect(Math.abs(Math.cos(angles[0]!))).toBeLessThan(1e-3)
  })

  test('one alone straightens and tilts nothing', () => {
    const step = uprighted(frame(), source, [facade[0]!])!
    expect([step.vertical, step.horizontal]).toEqual([0, 0])
    const [a, b] = facade[0]!.map((point) => seen(step, point)) as Line
    expect(Math.abs(a[0] - b[0])).toBeLessThan(0.6)
  })

  test('none, or lines that meet in the picture, are refused', () => {
    expect(uprighted(frame(), source, [])).toBeNull()
    const crossing: Line[] = [
      [
        [1400, 300],
        [1600, 1800],
      ],
      [
        [1600, 300],
        [1400, 1800],
      ],
    ]
    expect(uprighted(frame(), source, crossing)).toBeNull()
  })
})

describe('four corners', () => {
  test('go clockwise round the source from its upper left, however it is turned; the crop is what they become', () => {
    for (const turned of [{}, { turns: 1 }, { turns: 3, flip: true }] as Partial<Frame>[]) {
      const step = frame(turned)
      const canvas = step.turns % 2 ? [2000, 3000] : [3000, 2000]
      const at = (x: number, y: number): Point => [x * canvas[0]!, y * canvas[1]!]
      const drawn = [at(0.2, 0.25), at(0.8, 0.2), at(0.75, 0.8), at(0.3, 0.7)] as Four
      const made = cornered(step, source, drawn, (point) => point)
      const [a, b, c] = made.corners as Four
      expect((b[0] - a[0]) * (c[1] - b[1]) - (b[1] - a[1]) * (c[0] - b[0])).toBeGreaterThan(0)
      expect(a[0] + a[1]).toBeLessThan(Math.min(b[0] + b[1], c[0] + c[1]))
      expect(made.crop!.x + made.crop!.width).toBeLessThanOrEqual(canvas[0]!)
      const middle = fromCanvas(step, source, [
        made.crop!.x + made.crop!.width / 2,
        made.crop!.y + made.crop!.height / 2,
      ])
      const mean = [0, 1].map((axis) => (made.corners as Point[]).reduce((sum, point) => sum + point[axis]! / 4, 0))
      expect(Math.hypot(middle[0] - mean[0]!, middle[1] - mean[1]!)).toBeLessThan(2)
    }
  })
})

test('places go to the turned picture and back', () => {
  for (const turns of [0, 1, 2, 3])
    for (const flip of [false, true]) {
      const step = frame({ turns, flip })
      expect(fromCanvas(step, source, toCanvas(step, source, [120, 450]))).toEqual([120, 450])
    }
})
