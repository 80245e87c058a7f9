import type { Component } from 'vue'

import type { Schemas } from '../api/client'
import { number, pixelSize } from '../shell/format'
import EnlargeControl from './EnlargeControl.vue'
import FrameControl from './FrameControl.vue'
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
  make: () => Extract<Step, { kind?: K }>
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
  enlarge: {
    title: 'enlarge',
    purpose: 'To a factor, a size in pixels, or a print',
    control: EnlargeControl,
    summary: (step) => `${step.engine} · ${targetText(step.target)}`,
    make: () => ({ kind: 'enlarge', on: true, engine: 'faithful', target: { by: 'factor', factor: 2 } }),
  },
}

export function newStep(kind: StepKind): Step {
  return stepKinds[kind].make()
}
