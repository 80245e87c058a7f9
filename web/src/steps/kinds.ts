import type { Component } from 'vue'

import type { Schemas } from '../api/client'
import catalogue from '../generated/steps.json'
import type { Step, Take } from '../takes/queries'

export type StepKind = Step['kind']
export type StepOf<Kind extends StepKind> = Extract<Step, { kind: Kind }>

/** What steps are told of a picture: by its file, and of its faces by the reading. */
export type FileFacts = Partial<Pick<Schemas['Facts'], 'quality' | 'lowest' | 'white_ev' | 'raw'>> & {
  faces?: Schemas['FaceReading'][] | null
}

/** What the front end adds to what a kind of step says of itself: its control, and how it is told in a line. */
export interface Shown<Kind extends StepKind> {
  control: Component
  /** One line about the settings, as they stand on the line. */
  summary: (step: StepOf<Kind>, take: Take) => string
  /** A key of the bench that opens it. */
  key?: string
  /** The step as it begins, told what the picture's own file tells. */
  suited?: (step: StepOf<Kind>, facts: FileFacts) => StepOf<Kind>
}

/** What every kind of step says of itself, in the order in which they are offered; made from the core. */
export interface KindOfStep {
  kind: StepKind
  title: string
  purpose: string
  belongs: 'raw' | 'frame' | 'source' | 'size' | 'finish'
  takes_mask: boolean
  /** What it can set for itself from. */
  starts_from: ('picture' | 'grey')[]
  begun: Step
  limits: Record<string, { least: number | null; most: number | null }>
  /** Usual values inside settings that are models of their own, by setting and kind. */
  usual: Record<string, Record<string, Record<string, unknown>>>
}
export const kindsOfSteps = catalogue as unknown as KindOfStep[]

const byKind = new Map(kindsOfSteps.map((one) => [one.kind, one]))
export function kindOf(kind: StepKind): KindOfStep {
  return byKind.get(kind)!
}

const groups = ['raw', 'frame', 'source', 'size', 'finish'] as const

/**
 * Where kinds stand on the line: by what they belong to; those that finish also among each other. Light is set before
 * anything else is done to the source.
 */
function rank(kind: StepKind): number {
  const group = groups.indexOf(kindOf(kind).belongs)
  if (kind === 'exposure') return group * 100 - 1
  return group * 100 + (group === groups.length - 1 ? kindsOfSteps.indexOf(kindOf(kind)) : 0)
}

/**
 * Where a new step goes on the line: behind all that belong before it or beside it. A camera raw is developed before anything
 * else. A frame is drawn on the source, so it comes first of the others; what restores works on the pixels as they were
 * taken, so it comes before enlarging; what finishes works at the size of the output and comes last. All can be moved.
 */
export function placeFor(kind: StepKind, steps: Pick<Step, 'kind'>[]): number {
  if (kindOf(kind).belongs === 'frame') return steps.filter((step) => kindOf(step.kind).belongs === 'raw').length
  const after = steps.findIndex((step) => rank(step.kind) > rank(kind))
  return after < 0 ? steps.length : after
}
