import type { Schemas } from '../api/client'
import { number } from '../shell/format'

export type Deblur = Extract<Schemas['TakeOut']['steps'][number], { kind?: 'deblur' }>
export type Blur = NonNullable<Deblur['blur']>

export const blurKinds: { value: NonNullable<Blur['by']>; title: string; what: string }[] = [
  { value: 'focus', title: 'Missed focus', what: 'points have become discs' },
  { value: 'motion', title: 'Movement', what: 'points have become strokes' },
  { value: 'soft', title: 'Softness', what: 'edges are soft everywhere' },
]

/** A blur of a kind, of about the size another one has. */
export function blurOf(by: NonNullable<Blur['by']>): Blur {
  if (by === 'motion') return { by, angle: 0, length: 8 }
  return by === 'soft' ? { by, sigma: 1 } : { by, radius: 1.5 }
}

export function blurText(blur: Blur | undefined): string {
  switch (blur?.by) {
    case 'motion':
      return `movement ${number(blur.length ?? 8, 1)} px at ${number(blur.angle ?? 0, 0)}°`
    case 'soft':
      return `softness ${number(blur.sigma ?? 1, 2)} px`
    default:
      return `focus ${number(blur?.radius ?? 2, 1)} px`
  }
}
