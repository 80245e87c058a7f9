import { stepKinds } from '../steps/registry'
import type { Card } from './useCards'

/** A card's steps in one line. */
export function cardLine(card: Card): string {
  return card.steps
    .map((step) => {
      const kind = stepKinds[step.kind!]
      return `${kind.title}: ${(kind.summary as (one: typeof step) => string)(step)}`
    })
    .join(' → ')
}
