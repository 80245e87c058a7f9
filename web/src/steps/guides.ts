import { defineStore } from 'pinia'
import { ref } from 'vue'

import type { Point } from '../viewer/mapping'
import { inside, type Frame } from './frame'

interface Size {
  width: number
  height: number
}
export type Line = [Point, Point]
/** Four places, clockwise from the upper left. */
export type Four = [Point, Point, Point, Point]

/** What is drawn over the frame, by which perspective is undone; lines in pixels of the source, its distortion undone. */
export const useGuides = defineStore('guides', () => ({
  drawing: ref<'lines' | 'corners' | null>(null),
  lines: ref<Line[]>([]),
}))

/** Of the core's `perspective`: how much nearer or farther than the middle a border is at 100. */
const mostTilt = 0.4
const mostAngle = 45

/** Where a place of the source lies in the turned and flipped picture. */
export function toCanvas({ turns, flip }: Frame, { width, height }: Size, [x, y]: Point): Point {
  const all: Point[] = [
    [x, y],
    [height - y, x],
    [width - x, height - y],
    [y, width - x],
  ]
  const [across, down] = all[turns]!
  return [flip ? (turns % 2 ? height : width) - across : across, down]
}

/** The other way. */
export function fromCanvas({ turns, flip }: Frame, { width, height }: Size, [x, y]: Point): Point {
  const across = flip ? (turns % 2 ? height : width) - x : x
  const all: Point[] = [
    [across, y],
    [y, height - across],
    [width - across, height - y],
    [width - y, across],
  ]
  return all[turns]!
}

type Triple = [number, number, number]
const cross = ([a, b, c]: Triple, [d, e, f]: Triple): Triple => [b * f - c * e, c * d - a * f, a * e - b * d]

/** Whether a line is rather upright than level, as it is seen. */
function isUpright(step: Frame, source: Size, line: Line): boolean {
  const [from, to] = line.map((point) => toCanvas(step, source, point)) as Line
  return Math.abs(to[1] - from[1]) > Math.abs(to[0] - from[0])
}

/**
 * The frame in which what was drawn along is upright, or level: two lines of a kind undo perspective, one straightens.
 *
 * Lines of a kind meet in one place of the picture. A tilt by (1, q) takes the direction u, endlessly far, to u ÷ q·u: that is
 * to be this place. Of more than two of a kind the last two count. Null if they part too strongly to be undone.
 */
export function uprighted(step: Frame, source: Size, lines: Line[]): Frame | null {
  const middle = [source.width / 2, source.height / 2] as const
  const radius = Math.hypot(...middle)
  const centred = ([x, y]: Point): Triple => [(x - middle[0]) / radius, (y - middle[1]) / radius, 1]
  const kinds = [true, false].map((upright) => lines.filter((line) => isUpright(step, source, line) === upright))
  const through = (line: Line) => cross(centred(line[0]), centred(line[1]))
  const meeting = kinds.map((kind) => (kind.length > 1 ? cross(through(kind.at(-2)!), through(kind.at(-1)!)) : null))

  let [tiltX, tiltY] = [0, 0]
  const [first, second] = meeting.filter((one) => one !== null)
  if (first && second) {
    const whole = first[0] * second[1] - first[1] * second[0]
    tiltX = (first[2] * second[1] - second[2] * first[1]) / whole
    tiltY = (first[0] * second[2] - second[0] * first[2]) / whole
  } else if (first) {
    const square = first[0] ** 2 + first[1] ** 2
    ;[tiltX, tiltY] = [(first[2] * first[0]) / square, (first[2] * first[1]) / square]
  }
  const horizontal = (((tiltX / radius) * middle[0]) / mostTilt) * 100
  const vertical = (((tiltY / radius) * middle[1]) / mostTilt) * 100

  const which = meeting[0] || (!meeting[1] && kinds[0]!.length) ? 0 : 1
  const line = kinds[which]!.at(-1)
  if (!line) return null
  const drawn = [line[1][0] - line[0][0], line[1][1] - line[0][1]] as const
  const angle = angleOf(step, meeting[which] ? [meeting[which][0], meeting[which][1]] : [...drawn], which === 0)
  const possible = [horizontal, vertical].every((one) => Math.abs(one) <= 100) && Math.abs(angle) <= mostAngle
  if (!possible) return null
  const round = (value: number, digits: number) => Number(value.toFixed(digits)) || 0
  return {
    ...step,
    corners: null,
    horizontal: round(first ? horizontal : (step.horizontal ?? 0), 2),
    vertical: round(first ? vertical : (step.vertical ?? 0), 2),
    angle: round(angle, 2),
  }
}

/** How far a direction of the source has to be turned, clockwise, to be upright or level as it is seen. */
function angleOf({ turns, flip }: Frame, [x, y]: Point, upright: boolean): number {
  let [across, down] = [x, y]
  for (let turn = 0; turn < turns; turn++) [across, down] = [-down, across]
  if (flip) across = -across
  const degrees = (Math.atan2(upright ? across : -down, upright ? down : across) * 180) / Math.PI
  return degrees > 90 ? degrees - 180 : degrees <= -90 ? degrees + 180 : degrees
}

/**
 * The frame in which four places, as they are seen turned and flipped, become the corners of a rectangle that is all of it.
 *
 * `seen` takes pixels of the source with its distortion undone to those it came with.
 */
export function cornered(step: Frame, source: Size, drawn: Four, seen: (point: Point) => Point): Frame {
  const places = drawn.map((point) => fromCanvas(step, source, point))
  if (step.flip) places.reverse()
  const first = places.reduce((best, [x, y], index) => (x + y < places[best]![0] + places[best]![1] ? index : best), 0)
  const four = [0, 1, 2, 3].map((index) => places[(first + index) % 4]!) as Four
  const length = (a: Point, b: Point) => Math.hypot(a[0] - b[0], a[1] - b[1])
  const wide = (length(four[0], four[1]) + length(four[2], four[3])) / 2
  const high = (length(four[1], four[2]) + length(four[3], four[0])) / 2
  const [x, y] = [0, 1].map((axis) => four.reduce((sum, point) => sum + point[axis]!, 0) / 4) as Point
  const a = toCanvas(step, source, [x - wide / 2, y - high / 2])
  const b = toCanvas(step, source, [x + wide / 2, y + high / 2])
  const canvas = step.turns % 2 ? { width: source.height, height: source.width } : source
  const [left, top] = [Math.max(0, Math.min(a[0], b[0])), Math.max(0, Math.min(a[1], b[1]))].map(Math.round) as Point
  const crop = {
    x: left,
    y: top,
    width: Math.max(1, Math.min(Math.round(Math.max(a[0], b[0])), canvas.width) - left),
    height: Math.max(1, Math.min(Math.round(Math.max(a[1], b[1])), canvas.height) - top),
  }
  const round = (point: Point): Point => [Number(point[0].toFixed(2)), Number(point[1].toFixed(2))]
  const corners = four.map((point) => round(seen(point))) as Four
  return { ...step, corners, vertical: 0, horizontal: 0, angle: 0, crop: inside(crop, canvas) }
}
