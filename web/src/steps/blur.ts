import { kindOf, type StepOf } from './kinds'
import { number } from '../parts/format'

export type Deblur = StepOf<'deblur'>
export type Blur = NonNullable<Deblur['blur']>

export const blurKinds: { value: NonNullable<Blur['by']>; title: string; what: string }[] = [
  { value: 'focus', title: 'Missed focus', what: 'points have become discs' },
  { value: 'motion', title: 'Movement', what: 'points have become strokes' },
  { value: 'soft', title: 'Softness', what: 'edges are soft everywhere' },
]

/** A blur of a kind, of usual size. */
export function blurOf(by: NonNullable<Blur['by']>): Blur {
  return kindOf('deblur').usual.blur![by] as Blur
}

export function blurText(blur: Blur): string {
  switch (blur.by) {
    case 'motion':
      return `movement ${number(blur.length, 1)} px at ${number(blur.angle, 0)}°`
    case 'soft':
      return `softness ${number(blur.sigma, 2)} px`
    default:
      return `focus ${number(blur.radius, 1)} px`
  }
}
