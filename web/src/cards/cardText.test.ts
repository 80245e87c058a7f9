import { expect, test } from 'vitest'

import { kindOf } from '../steps/kinds'
import type { Card } from './queries'
import { cardLine } from './cardText'

const begun = (kind: 'sharpen' | 'frame' | 'enlarge') => kindOf(kind).begun as Card['steps'][number]

test('a card is told step by step', () => {
  expect(cardLine({ steps: [begun('sharpen')] })).toMatch(/^sharpen: /)
})

test('what can only be told of on a picture is told by its name', () => {
  expect(cardLine({ steps: [begun('frame'), begun('sharpen')] })).toMatch(/^frame.* → sharpen: /)
})
