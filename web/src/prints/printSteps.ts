import type { Schemas } from '../api/client'
import { placeFor } from '../steps/kinds'
import { newStep } from '../steps/registry'
import type { PrintNeed } from './usePrints'

type Take = Schemas['TakeOut']
type Step = Take['steps'][number]

/** The take's steps for a print: enlarged to the paper inside its border at the good resolution, `finish` as the last one. */
export function printSteps(
  take: Take,
  need: PrintNeed,
  mode: 'fit' | 'fill',
  border: number,
  finish: Step | null,
): Step[] {
  const { unit } = need.size
  const free = (2 * border) / { mm: 1, cm: 10, in: 25.4 }[unit ?? 'cm']
  const side = (length: number) => Math.round((length - free) * 1000) / 1000
  const target = {
    by: 'print' as const,
    width: side(need.size.width),
    height: side(need.size.height),
    unit,
    ppi: Math.max(10, Math.round(need.ppi)),
    mode,
  }
  const place = take.steps.findIndex((step) => step.kind === 'enlarge')
  const facts = {} as Schemas['Facts']
  const steps =
    place < 0
      ? take.steps.toSpliced(placeFor('enlarge', take.steps), 0, { ...newStep('enlarge', facts), target } as Step)
      : take.steps.with(place, { ...take.steps[place]!, target, on: true } as Step)
  // One sharpening for the paper is enough: an earlier plan's makes room.
  const last = steps.at(-1)
  const rest = finish && last?.kind === 'sharpen' ? steps.slice(0, -1) : steps
  return finish ? [...rest, finish] : rest
}
