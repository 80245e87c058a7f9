import { fromSource, sourceScale } from '../viewer/mapping'
import type { Plan } from '../viewer/layer'
import type { Step } from '../takes/queries'
import type { StepOf } from './kinds'
import type { Cut } from './useTrial'

export type Faces = StepOf<'faces'>
export type OneFace = NonNullable<Faces['faces']>[number]
type Spot = [number, number]

/** What is set for a face alone as it is put on the line: everything as for all, and its expression as it is. */
export const begunFace = {
  strength: null,
  freedom: null,
  liveliness: null,
  gaze: null,
  part: null,
  size: null,
  reference: null,
  smile: 0,
  brows: 0,
  lids: 0,
}

/** A face's box in pixels of the source, as it was drawn, to where its eyes and mouth are likely to be. */
export function faceInBox(start: Spot, end: Spot): OneFace {
  const [left, right] = [Math.min(start[0], end[0]), Math.max(start[0], end[0])]
  const [top, bottom] = [Math.min(start[1], end[1]), Math.max(start[1], end[1])]
  const at = (x: number, y: number): Spot => [
    Math.round((left + x * (right - left)) * 10) / 10,
    Math.round((top + y * (bottom - top)) * 10) / 10,
  ]
  return { ...begunFace, eyes: [at(0.3, 0.4), at(0.7, 0.4)], mouth: at(0.5, 0.78), on: true }
}

/** The square that a face is restored in, in pixels of the source: its middle and its side; as the core has it. */
export function squareOf(face: OneFace): { x: number; y: number; side: number } {
  const [[ax, ay], [bx, by]] = face.eyes as [Spot, Spot]
  const [mx, my] = face.mouth as Spot
  const [ex, ey] = [(ax + bx) / 2, (ay + by) / 2]
  const size = Math.max(Math.hypot(bx - ax, by - ay), 0.8 * Math.hypot(mx - ex, my - ey), 1)
  return { x: ex + 0.35 * (mx - ex), y: ey + 0.35 * (my - ey), side: 4.2 * size }
}

/** About how wide a face is, in pixels of the source. */
export const widthOf = (face: OneFace) => Math.round(0.53 * squareOf(face).side)

/** Below this many pixels there is hardly a face to restore. */
export const leastWidth = 12

/** Where a face lies in the result of a plan: the middle and the side of its square, in pixels. */
export function inResult(face: OneFace, plan: Plan): { x: number; y: number; side: number } {
  const square = squareOf(face)
  const [x, y] = fromSource(plan.to_source, [square.x, square.y])
  return { x, y, side: square.side / sourceScale(plan.to_source) }
}

/** The cut of a result that shows most of a face's square, at most so many pixels of it a side. */
export function cutOf(face: OneFace, plan: Plan, most = 2048): Cut {
  const { x, y, side } = inResult(face, plan)
  const across = Math.max(8, Math.min(most, Math.round(0.8 * side)))
  return { x: x / plan.size.width, y: y / plan.size.height, width: across, height: across }
}

/** The steps with that faces step doing nothing to a face: what it was before. */
export function without(steps: Step[], place: number): Step[] {
  return steps.with(place, { ...steps[place]!, on: false })
}

/** Faces in words, for the line. */
export function facesText(step: Faces): string {
  const all = step.faces ?? []
  if (!all.length) return 'no face yet'
  const on = all.filter((face) => face.on)
  const count = on.length === all.length ? `${all.length}` : `${on.length} of ${all.length}`
  return `${count} ${all.length === 1 ? 'face' : 'faces'} · strength ${Math.round(step.strength)}`
}
