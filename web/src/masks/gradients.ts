import type { PartOf } from './parts'

export type Point = [number, number]
export type Size = { width: number; height: number }
export type Gradient = PartOf<'linear'> | PartOf<'radial'>

/** Where a gradient can be taken hold of, in pixels of the source. */
export interface Handle {
  name: string
  title: string
  at: Point
}

const px = ([x, y]: readonly number[], { width, height }: Size): Point => [x! * width, y! * height]
const share = ([x, y]: Point, { width, height }: Size): Point => [
  Math.round((x / width) * 1e5) / 1e5,
  Math.round((y / height) * 1e5) / 1e5,
]
const held = (value: number) => Math.round(Math.max(0.005, Math.min(5, value)) * 1e5) / 1e5

/** The point of an ellipse's rim along its own axes, in pixels of the source. */
function rim(part: PartOf<'radial'>, size: Size, along: number, aside: number): Point {
  const [x, y] = px(part.middle, size)
  const turn = (part.angle / 180) * Math.PI
  const [a, b] = [along * part.across * size.width, aside * part.down * size.width]
  return [x + a * Math.cos(turn) - b * Math.sin(turn), y + a * Math.sin(turn) + b * Math.cos(turn)]
}

export function handlesOf(part: Gradient, size: Size): Handle[] {
  if (part.by === 'linear') {
    const [start, end] = [px(part.start, size), px(part.end, size)]
    return [
      { name: 'start', title: 'From here it works', at: start },
      { name: 'whole', title: 'Moves it', at: [(start[0] + end[0]) / 2, (start[1] + end[1]) / 2] },
      { name: 'end', title: 'Up to here', at: end },
    ]
  }
  return [
    { name: 'whole', title: 'Moves it', at: px(part.middle, size) },
    { name: 'across', title: 'Its width, and its turn', at: rim(part, size, 1, 0) },
    { name: 'down', title: 'Its height', at: rim(part, size, 0, 1) },
  ]
}

/** The gradient with one of its handles pulled to a place of the source. */
export function pulled(part: Gradient, handle: string, to: Point, size: Size): Gradient {
  if (part.by === 'linear') {
    if (handle !== 'whole') return { ...part, [handle]: share(to, size) }
    const [start, end] = [px(part.start, size), px(part.end, size)]
    const by: Point = [to[0] - (start[0] + end[0]) / 2, to[1] - (start[1] + end[1]) / 2]
    const moved = (point: Point) => share([point[0] + by[0], point[1] + by[1]], size)
    return { ...part, start: moved(start), end: moved(end) }
  }
  if (handle === 'whole') return { ...part, middle: share(to, size) }
  const [x, y] = px(part.middle, size)
  const away = Math.hypot(to[0] - x, to[1] - y) / size.width
  if (handle === 'down') return { ...part, down: held(away) }
  return { ...part, across: held(away), angle: Math.round((Math.atan2(to[1] - y, to[0] - x) / Math.PI) * 1800) / 10 }
}

/** Lines that show where a gradient begins, is half and ends, in pixels of the source. */
export function outlinesOf(part: Gradient, size: Size): Point[][] {
  if (part.by === 'radial') {
    const around = (scale: number) =>
      Array.from({ length: 65 }, (_, index) => {
        const angle = (index / 32) * Math.PI
        return rim(part, size, scale * Math.cos(angle), scale * Math.sin(angle))
      })
    return [around(1), around(Math.max(0, 1 - part.softness / 100))]
  }
  const [start, end] = [px(part.start, size), px(part.end, size)]
  const [across, down] = [end[0] - start[0], end[1] - start[1]]
  const length = Math.hypot(across, down) || 1
  const far = size.width + size.height
  const aside: Point = [(-down / length) * far, (across / length) * far]
  return [start, end].map(([x, y]) => [
    [x - aside[0], y - aside[1]],
    [x + aside[0], y + aside[1]],
  ])
}
