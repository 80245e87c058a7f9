import { kindOf } from '../steps/kinds'
import { shownKind } from '../steps/registry'
import type { Card } from './queries'

/** A card's steps in one line, whatever it holds: a step that can only be told of on a picture is told by its name. */
export function cardLine(card: Pick<Card, 'steps'>): string {
  return card.steps.map(stepLine).join(' → ')
}

function stepLine(step: Card['steps'][number]): string {
  const { title } = kindOf(step.kind)
  try {
    return `${title}: ${shownKind(step).summary(step as never, {} as never)}`
  } catch {
    return title
  }
}
