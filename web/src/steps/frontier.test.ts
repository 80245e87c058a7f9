import { expect, test } from 'vitest'

import { cleanest, mostDetailed, placeOf, tradeAt } from './frontier'

test('the ends of the way are its ends', () => {
  expect(tradeAt(0)).toEqual(cleanest)
  expect(tradeAt(100)).toEqual(mostDetailed)
})

test('every place is found again', () => {
  for (let place = 0; place <= 100; place++) {
    const found = placeOf(tradeAt(place))
    // Neighbours may round to the same whole settings.
    expect(found).not.toBeNull()
    expect(tradeAt(found!)).toEqual(tradeAt(place))
  }
})

test('towards detail there is never less of it, nor less noise kept', () => {
  for (let place = 1; place <= 100; place++) {
    const [before, after] = [tradeAt(place - 1), tradeAt(place)]
    expect(after.detail).toBeGreaterThanOrEqual(before.detail)
    expect(after.luminance).toBeLessThanOrEqual(before.luminance)
    expect(after.colour).toBeLessThanOrEqual(before.colour)
  }
})

test('settings beside the way have no place on it', () => {
  expect(placeOf({ luminance: 0, colour: 100, detail: 50 })).toBeNull()
  expect(placeOf({ ...tradeAt(50), detail: 90 })).toBeNull()
})
