import { expect, test } from 'vitest'

import { inches, orderText, ppiOfOrder, turnedOrder, type PrintOrder } from './order'

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
  [{ width: 7087, height: 4724 }, 300],
  [{ width: 4724, height: 7087 }, 300],
  // A square is fitted inside: its side goes on the 40 cm side.
  [{ width: 1575, height: 1575 }, 100],
])('%o printed as ordered has %d ppi', (size, ppi) => {
  expect(ppiOfOrder(order, size)).toBeCloseTo(ppi, 0)
})

test('the larger the picture, the more pixels per inch, in proportion', () => {
  const once = ppiOfOrder(order, { width: 900, height: 500 })
  expect(ppiOfOrder(order, { width: 2700, height: 1500 })).toBeCloseTo(3 * once)
})
