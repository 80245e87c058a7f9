import type { Schemas } from '../api/client'

export type Point = [number, number]
export type MappingPart = Schemas['MappingPart']
type Warp = Schemas['WarpOut']
type Affine = [number, number, number, number, number, number]

const affineOf = (part: MappingPart) => part.affine as Affine
const areaOf = ([a, b, , d, e]: Affine) => a * e - b * d

/** What has no place, as beyond the horizon of a projection, lies there. */
const far = -1e7

function projected(matrix: number[], [x, y]: Point): Point {
  const [a, b, c, d, e, f, g, h, i] = matrix as [number, number, number, number, number, number, number, number, number]
  const depth = g * x + h * y + i
  return depth > 1e-6 ? [(a * x + b * y + c) / depth, (d * x + e * y + f) / depth] : [far, far]
}

function inverted(matrix: number[]): number[] {
  const [a, b, c, d, e, f, g, h, i] = matrix as [number, number, number, number, number, number, number, number, number]
  const [p, q, r] = [e * i - f * h, f * g - d * i, d * h - e * g]
  const whole = a * p + b * q + c * r
  return [p, c * h - b * i, b * f - c * e, q, a * i - c * g, c * d - a * f, r, b * g - a * h, a * e - b * d].map(
    (one) => one / whole,
  )
}

/** From a picture with perspective and distortion undone to the one that came; see the core's `Warp`, which does the same. */
export function warped(warp: Warp, point: Point): Point {
  const [x, y] = projected(warp.matrix, point)
  const [across, down] = [(x - warp.middle[0]) / warp.gain, (y - warp.middle[1]) / warp.gain]
  const root = 1 + Math.sqrt(1 + (4 * warp.bend * (across ** 2 + down ** 2)) / warp.radius ** 2)
  return [warp.middle[0] + (2 * across) / root, warp.middle[1] + (2 * down) / root]
}

/** The other way. */
export function unwarped(warp: Warp, point: Point): Point {
  return projected(inverted(warp.matrix), undistorted(warp, point))
}

/** Where a place of the picture that came would be with the lens's distortion undone, its perspective as it is. */
export function undistorted(warp: Pick<Warp, 'middle' | 'gain' | 'bend' | 'radius'>, [x, y]: Point): Point {
  const [across, down] = [x - warp.middle[0], y - warp.middle[1]]
  const gain = warp.gain / (1 - (warp.bend * (across ** 2 + down ** 2)) / warp.radius ** 2)
  return [warp.middle[0] + gain * across, warp.middle[1] + gain * down]
}

/** Where in the source a place of a result comes from. */
export function toSource(parts: MappingPart[], point: Point): Point {
  return parts.reduce<Point>((at, part) => {
    if (part.warp) return warped(part.warp, at)
    const [a, b, c, d, e, f] = affineOf(part)
    return [a * at[0] + b * at[1] + c, d * at[0] + e * at[1] + f]
  }, point)
}

/** Where a place of the source lies in the result. */
export function fromSource(parts: MappingPart[], point: Point): Point {
  return parts.reduceRight<Point>((at, part) => {
    if (part.warp) return unwarped(part.warp, at)
    const affine = affineOf(part)
    const [a, b, c, d, e, f] = affine
    const [x, y] = [at[0] - c, at[1] - f]
    return [(e * x - b * y) / areaOf(affine), (a * y - d * x) / areaOf(affine)]
  }, point)
}

/** Source pixels for one of the result, a side, in the middle of what is bent. */
export function sourceScale(parts: MappingPart[]): number {
  return Math.sqrt(Math.abs(parts.reduce((area, part) => (part.warp ? area : area * areaOf(affineOf(part))), 1)))
}
