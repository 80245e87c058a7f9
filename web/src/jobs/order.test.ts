import { expect, test } from 'vitest'

import { inches, orderMet, orderText, turnedOrder, type PrintOrder } from './order'

const order: PrintOrder = { width: 40, height: 60, unit: 'cm', ppi: 240 }

test('an order is told with its unit and resolution', () => {
  expect(orderText(order)).toBe('40 × 60 cm at 240 ppi')
  expect(orderText({ width: 8.5, height: 11, unit: 'in' } as PrintOrder)).toBe('8.5 × 11 in at 300 ppi')
})

test('lengths are the same in every unit', () => {
  expect(inches(254, 'mm')).toBeCloseTo(10)
  expect(inches(25.4, 'cm')).toBeCloseTo(10)
  expect(inches(10, 'in')).toBe(10)
})

test('an order is turned to lie like the picture, and left where it does', () => {
  expect(turnedOrder(order, { width: 300, height: 200 })).toMatchObject({ width: 60, height: 40 })
  expect(turnedOrder(order, { width: 200, height: 300 })).toBe(order)
})

test.each([
  // 60 cm are 23.622 in.
  [{ width: 7087, height: 4724 }, 300, 'enough'],
  [{ width: 4724, height: 7087 }, 300, 'enough'],
  [{ width: 5669, height: 3780 }, 240, 'enough'],
  [{ width: 4252, height: 2835 }, 180, 'a little short'],
  [{ width: 2362, height: 1575 }, 100, 'short'],
] as const)('%o printed as ordered has %d ppi: %s', (size, ppi, word) => {
  const met = orderMet(order, size)
  expect([Math.round(met.ppi), met.covers, met.word]).toEqual([ppi, true, word])
})

test('a picture of another shape does not meet it, however many pixels it has, and what of it is printed is told', () => {
  const square = orderMet(order, { width: 1575, height: 1575 })
  expect([Math.round(square.ppi), square.covers, square.word]).toEqual([100, false, 'another shape'])
  expect([square.width, square.height]).toEqual([expect.closeTo(40), expect.closeTo(40)])
  const wide = orderMet({ width: 60, height: 90, unit: 'cm', ppi: 150 }, { width: 8000, height: 6000 })
  expect(wide).toMatchObject({ width: expect.closeTo(80), height: expect.closeTo(60), covers: false })
})

test('a pixel or two of rounding are no other shape', () => {
  expect(orderMet(order, { width: 7087, height: 4723 }).covers).toBe(true)
  expect(orderMet(order, { width: 708, height: 473 }).covers).toBe(true)
  expect(orderMet(order, { width: 7087, height: 4600 }).covers).toBe(false)
})

test('the larger the picture, the more pixels per inch, in proportion', () => {
  const once = orderMet(order, { width: 900, height: 500 }).ppi
  expect(orderMet(order, { width: 2700, height: 1500 }).ppi).toBeCloseTo(3 * once)
})
