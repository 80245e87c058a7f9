import { reactive } from 'vue'

import type { Schemas } from '../api/client'
import type { StepOf } from './kinds'

export type Patch = NonNullable<StepOf<'patch'>['patches']>[number]
export type Way = Patch['way']
/** A place that might be painted over. */
export type Proposed = Schemas['Proposed']
type Place = [number, number]

/** Most patches of a step. */
export const mostPatches = 200

/** How the next patch is made, and which one is looked at: one hand for all steps. */
export const patching = reactive({
  way: 'mend' as Way,
  chosen: null as number | null,
  /** Whether what the brush goes around belongs to the next patch. */
  outline: false,
  /** Places that were found, the surest first; null while nothing was looked for. */
  found: null as Proposed[] | null,
  /** Those of them that are not wanted, by their places in the list. */
  refused: [] as number[],
  /** How far the look for more of them is, 0..1; null while there is none. */
  share: null as number | null,
  /** How sure they have to be, percent. */
  least: 90,
})

/** The places that were found and are wanted as things stand, by their places in the list. */
export const wanted = () =>
  (patching.found ?? []).flatMap((one, place) =>
    100 * one.sure >= patching.least && !patching.refused.includes(place) ? [place] : [],
  )
/** Nothing is proposed any more. */
export function dismiss() {
  patching.found = null
  patching.refused = []
}
/** A place that was found is refused, or wanted again. */
export function refuse(place: number) {
  const { refused } = patching
  patching.refused = refused.includes(place) ? refused.filter((one) => one !== place) : [...refused, place]
}

export const wayTitles: Record<Way, string> = { mend: 'mended', clone: 'cloned', fill: 'filled', take: 'other take' }
/** A patch made another way; one that had no other place takes from beside itself at first, to be dragged from there. */
export function madeBy(patch: Patch, way: Way): Patch {
  const nowhere = elsewhere({ way }) && !patch.x && !patch.y
  return { ...patch, way, ...(nowhere ? { x: Math.round(1.5 * (patch.stroke.size ?? 60)) } : {}) }
}
/** Whether what a patch is given comes from another place. */
export const elsewhere = ({ way = 'mend' }: Pick<Patch, 'way'>) => way === 'mend' || way === 'clone'

/** What patches do, in a line. */
export function patchesText(patches: readonly Patch[]): string {
  const on = patches.filter((one) => one.on)
  if (!patches.length) return 'nothing painted yet'
  const off = patches.length - on.length
  return `${on.length} ${on.length === 1 ? 'place' : 'places'}${off ? ` · ${off} off` : ''}`
}

const rounded = (value: number) => Math.round(100 * value) / 100
const first = ({ stroke }: Patch) => stroke.points[0] as Place

/** A patch that takes from a place of the source instead. */
export function takenFrom(patch: Patch, [x, y]: Place): Patch {
  const [left, top] = first(patch)
  return { ...patch, x: rounded(x - left), y: rounded(y - top) }
}

/** A patch whose stroke begins somewhere else; what it takes stays where it is. */
export function movedTo(patch: Patch, [x, y]: Place): Patch {
  const [left, top] = first(patch)
  const points = (patch.stroke.points as Place[]).map(([across, down]): Place => [
    rounded(across + x - left),
    rounded(down + y - top),
  ])
  return {
    ...patch,
    stroke: { ...patch.stroke, points },
    x: rounded((patch.x ?? 0) + left - x),
    y: rounded((patch.y ?? 0) + top - y),
  }
}

/** Where the points of a patch's stroke take from, in the source: turned and scaled about where it begins. */
export function ghostOf(patch: Patch): Place[] {
  const [left, top] = first(patch)
  const angle = (-(patch.turn ?? 0) * Math.PI) / 180
  const [cos, sin] = [Math.cos(angle), Math.sin(angle)].map((part) => part / (patch.scale ?? 1)) as Place
  return (patch.stroke.points as Place[]).map(([x, y]): Place => {
    const [across, down] = [x - left, y - top]
    return [left + (patch.x ?? 0) + cos * across - sin * down, top + (patch.y ?? 0) + sin * across + cos * down]
  })
}
