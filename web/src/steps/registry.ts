import type { Component } from 'vue'

import type { Schemas } from '../api/client'
import { number, pixelSize } from '../shell/format'
import DeblurControl from './DeblurControl.vue'
import DenoiseControl from './DenoiseControl.vue'
import EnlargeControl from './EnlargeControl.vue'
import FrameControl from './FrameControl.vue'
import GiveBackControl from './GiveBackControl.vue'
import GrainControl from './GrainControl.vue'
import RepairControl from './RepairControl.vue'
import SharpenControl from './SharpenControl.vue'
import { blurText } from './blur'
import { targetText } from './target'

type Take = Schemas['TakeOut']
type Step = Take['steps'][number]
export type StepKind = NonNullable<Step['kind']>

interface Kind<K extends StepKind> {
  title: string
  purpose: string
  control: Component
  /** One line about the settings, as they stand on the line. */
  summary: (step: Extract<Step, { kind?: K }>, take: Take) => string
  make: (facts: Schemas['Facts']) => Extract<Step, { kind?: K }>
}

/** Every kind of step there is: a new one is a control and an entry here. */
export const stepKinds: { [K in StepKind]: Kind<K> } = {
  frame: {
    title: 'frame',
    purpose: 'Crop, turn, straighten, flip',
    control: FrameControl,
    summary: (step, take) => {
      const parts = [take.plan ? `${pixelSize(take.plan.framed)} px` : 'whole picture']
      if (step.turns) parts.push(`${step.turns * 90}°`)
      if (step.angle) parts.push(`straightened ${number(step.angle, 1)}°`)
      if (step.flip) parts.push('flipped')
      return parts.join(' · ')
    },
    make: () => ({ kind: 'frame', on: true, turns: 0, flip: false, angle: 0, crop: null }),
  },
  denoise: {
    title: 'denoise',
    purpose: 'Take noise and grain away, luminance and colour apart',
    control: DenoiseControl,
    summary: (step) => `luminance ${number(step.luminance ?? 60, 0)} · colour ${number(step.colour ?? 90, 0)}${step.detail ? ` · detail ${number(step.detail, 0)}` : ''}`,
    make: () => ({ kind: 'denoise', on: true, engine: 'denoise', luminance: 60, colour: 90, detail: 0 }),
  },
  repair: {
    title: 'repair',
    purpose: 'Take block edges, ringing, colour bleed and bands away',
    control: RepairControl,
    summary: (step) => `strength ${number(step.strength ?? 80, 0)}${step.quality ? ` · quality ${step.quality}` : ''}${step.banding ? ` · bands ${number(step.banding, 0)}` : ''}`,
    make: (facts) => ({ kind: 'repair', on: true, engine: 'repair', strength: 80, quality: facts.quality ?? null, banding: 0 }),
  },
  deblur: {
    title: 'deblur',
    purpose: 'Undo movement, missed focus or softness',
    control: DeblurControl,
    summary: (step) => `${blurText(step.blur)}${step.strength === 100 ? '' : ` · strength ${number(step.strength ?? 100, 0)}`}`,
    make: () => ({ kind: 'deblur', on: true, engine: 'deblur', blur: { by: 'focus', radius: 1.5 }, strength: 100, keep_sharp: 0 }),
  },
  enlarge: {
    title: 'enlarge',
    purpose: 'To a factor, a size in pixels, or a print',
    control: EnlargeControl,
    summary: (step) => {
      const engines = step.blend?.weight ? `${step.engine} + ${number(step.blend.weight, 0)} % ${step.blend.engine}` : step.engine
      return [engines, targetText(step.target), step.hold ? 'held' : '', step.repeat ? 'repeating' : ''].filter(Boolean).join(' · ')
    },
    make: () => ({
      kind: 'enlarge', on: true, engine: 'faithful', blend: null, hold: 0, repeat: false, target: { by: 'factor', factor: 2 },
    }),
  },
  'give-back': {
    title: 'give back',
    purpose: 'Paint the original or another take through',
    control: GiveBackControl,
    summary: (step) => `${step.of ?? 'original'} · ${step.mask?.strokes?.length ?? 0} strokes`,
    make: () => ({ kind: 'give-back', on: true, of: 'original', steps: [], mask: { strokes: [], inverted: false } }),
  },
  sharpen: {
    title: 'sharpen',
    purpose: 'Firm edges at the size of the output',
    control: SharpenControl,
    summary: (step) => `amount ${number(step.amount ?? 80, 0)} % · radius ${number(step.radius ?? 0.8, 1)} px`,
    make: () => ({ kind: 'sharpen', on: true, amount: 80, radius: 0.8, detail: 30, threshold: 2, edges: 30, shadows: 40, highlights: 40 }),
  },
  grain: {
    title: 'grain',
    purpose: "Match the source's grain or add some",
    control: GrainControl,
    summary: (step) => `σ ${number(step.amount ?? 4, 1)} · ${number(step.size ?? 1.5, 1)} px`,
    make: () => ({ kind: 'grain', on: true, amount: 4, size: 1.5, colour: 0, tones: 60, seed: 1 }),
  },
}

/**
 * Where a new step goes on the line. What finishes works at the size of the output and comes last. A frame is drawn on the source, so it comes first; what restores works on the
 * pixels as they were taken, so it comes before enlarging. Both can be moved.
 */
const finishing: StepKind[] = ['give-back', 'sharpen', 'grain']
export function placeFor(kind: StepKind, steps: Step[]): number {
  if (kind === 'frame') return 0
  if (finishing.includes(kind)) {
    const after = steps.findIndex((step) => finishing.indexOf(step.kind!) > finishing.indexOf(kind))
    return after < 0 ? steps.length : after
  }
  const later = steps.findIndex((step) => finishing.includes(step.kind!) || (kind !== 'enlarge' && step.kind === 'enlarge'))
  return later < 0 ? steps.length : later
}

/** A step of a kind with its usual settings; what a picture's own file tells is put in. */
export function newStep(kind: StepKind, facts: Schemas['Facts']): Step {
  return stepKinds[kind].make(facts)
}
