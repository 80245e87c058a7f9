import type { Moment } from './queries'

/** The range of a clip that is marked, first and last frame. */
export interface Range {
  first: number
  last: number
}

/** Most neighbouring frames that are fused. */
export const mostFused = 24

/** Most frames that are pulled at once. */
export const mostPulled = 40

/** A range with a new first or last frame: the other end moves along if it has to. */
export function marked(range: Range | null, end: 'first' | 'last', frame: number): Range {
  const now = range ?? { first: frame, last: frame }
  return end === 'first'
    ? { first: frame, last: Math.max(frame, now.last) }
    : { first: Math.min(frame, now.first), last: frame }
}

/** The sharpest frame of a range; its middle where nothing is known. */
export function sharpest(range: Range, sharpness: number[] | undefined): number {
  if (!sharpness) return Math.round((range.first + range.last) / 2)
  let best = range.first
  for (let frame = range.first; frame <= range.last; frame++) if (sharpness[frame]! > sharpness[best]!) best = frame
  return best
}

/** Frames around one, no more than are fused, within the range. */
export function around(frame: number, range: Range, most: number): Range {
  const first = Math.max(range.first, Math.min(frame - Math.floor(most / 2), range.last - most + 1))
  return { first, last: Math.min(range.last, first + most - 1) }
}

/** A curve as points of an SVG polyline, 0..1 across and down, the sharpest at the top. */
export function curvePoints(sharpness: number[]): string {
  const low = Math.min(...sharpness)
  const span = Math.max(...sharpness) - low || 1
  const step = 1 / Math.max(1, sharpness.length - 1)
  return sharpness.map((value, frame) => `${frame * step},${1 - (value - low) / span}`).join(' ')
}

/** The faces of frames over a clip of so many, as points like those of a curve; good ones at the top. */
export function momentPoints(moments: Moment[], frames: number): string {
  const last = Math.max(1, frames - 1)
  return moments.map(({ frame, good }) => `${frame / last},${1 - good}`).join(' ')
}

/** What the eyes do in a moment, in words. */
export function momentText({ faces, open, towards, light }: Moment): string {
  const all = faces > 1 ? `${faces} faces, ` : ''
  const eyes = open < 0.4 ? 'eyes shut' : open < 0.75 ? 'eyes half open' : 'eyes open'
  const look = open < 0.4 ? '' : towards < 0.5 ? ', looking aside' : ', looking here'
  return `${all}${eyes}${look}${open >= 0.4 && light > 0.5 ? ', a light in them' : ''}`
}
