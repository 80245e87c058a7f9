import { kindOf } from '../steps/kinds'
import { shownKind } from '../steps/registry'
import type { Card } from './queries'

/** A card's steps in one line. */
export function cardLine(card: Card): string {
  return card.steps
    .map((step) => `${kindOf(step.kind).title}: ${shownKind(step).summary(step as never, {} as never)}`)
    .join(' → ')
}
