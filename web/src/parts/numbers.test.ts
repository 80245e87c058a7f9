import { describe, expect, test } from 'vitest'

import { calculated, stepOf } from './numbers'

describe('what was typed', () => {
  test.each([
    ['42', 42],
    [' 3,5 ', 3.5],
    ['.5', 0.5],
    ['-7', -7],
    ['2*300', 600],
    ['2 × 300', 600],
    ['100/8', 12.5],
    ['1+2*3', 7],
    ['(1+2)*3', 9],
    ['10 - 4 - 3', 3],
    ['-(2+3)', -5],
    ['2*-3', -6],
  ])('as %s is %f', (text, value) => expect(calculated(text)).toBeCloseTo(value))

  test.each(['', 'wide', '2*', '(1+2', '1 2', '3)', '1/0', '4 px'])('as “%s” is no number', (text) =>
    expect(calculated(text)).toBeNaN(),
  )
})

test('keys move by a step, ten of them, or a tenth', () => {
  const keys = (shiftKey: boolean, altKey: boolean) => stepOf({ shiftKey, altKey }, 2)
  expect([keys(false, false), keys(true, false), keys(false, true)]).toEqual([2, 20, 0.2])
})
