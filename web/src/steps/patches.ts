import { reactive } from 'vue'

import type { StepOf } from './kinds'

export type Patch = NonNullable<StepOf<'patch'>['patches']>[number]
export type Way = Patch['way']

/** Most patches of a step. */
export const mostPatches = 200

/** How the next patch is made, and which one is looked at: one hand for all steps. */
export const patching = reactive({ way: 'mend' as Way, chosen: null as number | null })

export const wayTitles: Record<Way, string> = { mend: 'mended', clone: 'cloned' }

/** What patches do, in a line. */
export function patchesText(patches: readonly Patch[]): string {
  const on = patches.filter((one) => one.on)
  if (!patches.length) return 'nothing painted yet'
  const off = patches.length - on.length
  return `${on.length} ${on.length === 1 ? 'place' : 'places'}${off ? ` · ${off} off` : ''}`
}

/** A patch that takes from a place of the source instead. */
export function takenFrom(patch: Patch, [x, y]: [number, number]): Patch {
  const [left, top] = patch.stroke.points[0] as [number, number]
  const rounded = (value: number) => Math.round(100 * value) / 100
  return { ...patch, x: rounded(x - left), y: rounded(y - top) }
}
