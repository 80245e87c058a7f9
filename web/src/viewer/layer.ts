import type { Schemas } from '../api/client'
import type { Part } from './viewParts'

export type Plan = NonNullable<Schemas['TakeOut']['plan']>
export type Size = Schemas['SizeOut']

/** How a soft proof is made. */
export interface Proof {
  printer: string
  intent: Schemas['OutputSpec']['intent']
  black_point: boolean
  paper: boolean
  warn: boolean
}

/** A picture as a pane lays it down: where its tiles come from and where it lies, the leading take's result being 1 wide. */
export interface Layer {
  /** Address of its tiles up to the level, and of its cuts up to the place. */
  tiles: string
  cuts: string
  /** What the tiles show instead of the pixels, as a query. */
  query: string
  size: Size
  at: { x: number; y: number; width: number }
}

/**
 * How a result is shown: as it is, as a printer would print it, with clipped pixels (alone, or striped over the picture) or a
 * step's mask marked, or as its difference from another one.
 */
export type Show =
  | { as: 'pixels' }
  | { as: 'proof'; proof: Proof }
  | { as: 'clipping' }
  | { as: 'stripes' }
  | { as: 'mask'; step: number }
  | { as: 'difference'; gain: number; against: string }

function query(show: Show): string {
  switch (show.as) {
    case 'pixels':
      return ''
    case 'clipping':
    case 'stripes':
      return `?show=${show.as}`
    case 'proof':
      return `?show=proof&${new URLSearchParams(Object.entries(show.proof).map(([name, value]) => [name, `${value}`]))}`
    case 'mask':
      return `?show=mask&step=${show.step}`
    case 'difference':
      return `?show=difference&gain=${show.gain}&against=${show.against}`
  }
}

/** Where one take's frame lies in another's: crops of the same canvas, whatever they are enlarged to. */
function within(plan: Plan, lead: Plan): Layer['at'] {
  const { x, y, width } = lead.crop
  return { x: (plan.crop.x - x) / width, y: (plan.crop.y - y) / width, width: plan.crop.width / width }
}

export function resultLayer(takeId: string, plan: Plan, lead: Plan, show: Show = { as: 'pixels' }): Layer {
  return {
    tiles: `/api/takes/${takeId}/tiles/${plan.chain}`,
    cuts: `/api/takes/${takeId}/cuts/${plan.chain}`,
    query: query(show),
    size: plan.size,
    at: within(plan, lead),
  }
}

/** The framed picture before anything was done to it. */
export function originalLayer(takeId: string, plan: Plan, lead: Plan): Layer {
  return {
    tiles: `/api/takes/${takeId}/tiles/${plan.framed_chain}`,
    cuts: `/api/takes/${takeId}/cuts/${plan.framed_chain}`,
    query: '',
    size: plan.framed,
    at: within(plan, lead),
  }
}

export function tileOf(layer: Layer, level: number, x: number, y: number): string {
  return `${layer.tiles}/${level}/${x}_${y}.png${layer.query}`
}

/** Address of a part of a layer at full size. */
export function partOf(layer: Layer, { x, y, width, height }: Part): string {
  return `${layer.cuts}/${x}_${y}_${width}_${height}.png${layer.query}`
}

export const sameLayer = (a: Layer, b: Layer) =>
  a.tiles === b.tiles && a.query === b.query && a.at.x === b.at.x && a.at.y === b.at.y && a.at.width === b.at.width
