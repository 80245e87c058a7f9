import type { Schemas } from '../api/client'
import type { Step, Take } from '../takes/queries'
import { kindOf } from './kinds'

type Repeats = Schemas['RepeatsOut']

/**
 * The steps of a take with its frame cropped to whole periods, and nothing laid over along sides that have one; null if there
 * is no plan, or a step between the frame and the seam changes the size.
 */
export function wholePeriods(take: Take, picture: Schemas['PictureOut'], index: number, found: Repeats): Step[] | null {
  const framed = take.plan?.framed
  if (!framed) return null
  const place = take.steps.findIndex((step) => step.kind === 'frame')
  const frame = (take.steps[place] ?? kindOf('frame').begun) as Extract<Step, { kind: 'frame' }>
  const turned = (frame.turns ?? 0) % 2 === 1
  const { width, height } = picture.facts
  const whole = turned ? { width: height, height: width } : { width, height }
  // A frame without a crop is the largest part about the middle that the picture reaches.
  const from = frame.crop ?? {
    x: Math.round((whole.width - framed.width) / 2),
    y: Math.round((whole.height - framed.height) / 2),
  }
  const crop = {
    x: from.x,
    y: from.y,
    width: Math.min(framed.width, found.across.whole),
    height: Math.min(framed.height, found.down.whole),
  }
  const cropped = { ...frame, on: true, crop } as Step
  const steps = take.steps.map((step, at) => {
    if (at === place) return cropped
    if (at !== index || step.kind !== 'seamless') return step
    return { ...step, across: found.across.period ? 0 : step.across, down: found.down.period ? 0 : step.down }
  })
  return place < 0 ? [cropped, ...steps] : steps
}
