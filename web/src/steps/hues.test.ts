import { expect, test } from 'vitest'

import { anchorAt, anchorText, around, ofDisc, onDisc } from './hues'

test('a tint on the disc is found there again', () => {
  for (const tint of [
    { hue: 30, amount: 50 },
    { hue: 200, amount: 12 },
    { hue: 359, amount: 100 },
  ])
    expect(ofDisc(...onDisc(tint))).toEqual(tint)
})

test('beyond the rim it is the rim', () => {
  expect(ofDisc(3, 0)).toEqual({ hue: 0, amount: 100 })
})

test('hues go around', () => {
  expect([around(-10), around(360), around(725.4)]).toEqual([350, 0, 5])
})

test('what an anchor does is told', () => {
  expect(anchorText(anchorAt(40))).toBe('as it is')
  expect(anchorText({ ...anchorAt(40), turn: -12, saturation: 30 })).toBe('turned −12° · purity +30')
})
