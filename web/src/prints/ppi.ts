import type { Schemas } from '../api/client'

/** What a take is printed with: the ppi of its enlargement, else those that were ordered, else 300. */
export function printPpi(take: Schemas['TakeOut'], order: Schemas['PrintOrder'] | null): number {
  const step = take.steps.find((one) => one.kind === 'enlarge' && one.on)
  const target = step?.kind === 'enlarge' ? step.target : undefined
  return (target?.by === 'print' ? target.ppi : order?.ppi) ?? 300
}
