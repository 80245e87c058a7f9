import type { Schemas } from '../api/client'
import { length } from '../parts/format'
import { shaped, type Frame } from '../steps/frame'
import { placeFor } from '../steps/kinds'
import { newStep } from '../steps/registry'
import type { PrintNeed } from './usePrints'

type Take = Schemas['TakeOut']
type Step = Take['steps'][number]
type Unit = 'mm' | 'cm' | 'in'
interface Paper {
  width: number
  height: number
  unit?: Unit
}

const perUnit = { mm: 1, cm: 10, in: 25.4 }
const noFacts = {} as Schemas['Facts']

/** The take's steps, changed at the first of a kind, or with one where it belongs. */
function withStep<Kind extends Step['kind']>(steps: Step[], kind: Kind, change: (step: Step) => Step): Step[] {
  const place = steps.findIndex((step) => step.kind === kind)
  return place < 0
    ? steps.toSpliced(placeFor(kind, steps), 0, change(newStep(kind, noFacts) as Step))
    : steps.with(place, change({ ...steps[place]!, on: true } as Step))
}

/** The take's steps, cropped to the shape of a paper that lies or stands as the picture does: no more is cut off than must be. */
export function cropped(take: Take, paper: Paper): Step[] {
  const { plan } = take
  if (!plan) return take.steps
  const { canvas, crop } = plan
  const [short, long] = [Math.min(paper.width, paper.height), Math.max(paper.width, paper.height)]
  const ratio = crop.width > crop.height ? long / short : short / long
  // Within one pixel it has the shape already.
  if (Math.abs(crop.width - crop.height * ratio) <= 1) return take.steps
  const within = shaped(crop, canvas, ratio, 'within')
  return withStep(take.steps, 'frame', (step) => ({ ...(step as Frame), crop: within }))
}

/** What a border of so many millimetres leaves of a paper. */
export function insideBorder({ width, height, unit }: Paper, border: number) {
  const side = (length: number) => Math.round((length - (2 * border) / perUnit[unit ?? 'cm']) * 1000) / 1000
  return { width: side(width), height: side(height), unit }
}

/** What becomes of picture and paper that differ in shape; empty where they do not. */
export function besidesText(framed: { width: number; height: number }, paper: Paper, mode: 'fit' | 'fill'): string {
  const [short, long] = [Math.min(paper.width, paper.height), Math.max(paper.width, paper.height)]
  const ratio = framed.width > framed.height ? long / short : short / long
  const own = framed.width / framed.height
  if (Math.abs(framed.width - framed.height * ratio) <= 1) return ''
  if (mode === 'fill') {
    const lost = 1 - Math.min(own, ratio) / Math.max(own, ratio)
    return `${Math.max(1, Math.round(100 * lost))} % of the picture is cut off; the frame step says where`
  }
  const [width, height] = framed.width > framed.height ? [long, short] : [short, long]
  const white = own > ratio ? height - width / own : width - height * own
  return `${length(white)} ${paper.unit ?? 'cm'} of its ${own > ratio ? 'height' : 'width'} stay white`
}

/** Whether a step is a sharpening that makes up for a paper, as the planner adds it; only how much depends on the paper. */
export function forPaper(step: Step | undefined, finish: Step): boolean {
  if (step?.kind !== 'sharpen' || finish.kind !== 'sharpen') return false
  const told = ({ detail, threshold, edges, mask }: typeof step) =>
    JSON.stringify([detail, threshold, edges, mask ?? null])
  return told(step) === told(finish)
}

/**
 * The take's steps for a print: enlarged to the paper inside its border at the good resolution, `finish` as the last one.
 * To fill it, the picture is cropped to its shape; to fit, all of it stays.
 */
export function printSteps(
  take: Take,
  need: PrintNeed,
  mode: 'fit' | 'fill',
  border: number,
  finish: Step | null,
): Step[] {
  const paper = insideBorder(need.size, border)
  const target = { by: 'print' as const, ...paper, ppi: Math.max(10, Math.round(need.ppi)), mode }
  const framed = mode === 'fill' ? cropped(take, paper) : take.steps
  const steps = withStep(framed, 'enlarge', (step) => ({ ...step, target }) as Step)
  if (!finish) return steps
  // One sharpening for the paper is enough: an earlier plan's makes room. A person's own stays as it is.
  const rest = forPaper(steps.at(-1), finish) ? steps.slice(0, -1) : steps
  return [...rest, finish]
}
