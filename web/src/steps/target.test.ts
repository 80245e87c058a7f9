import { expect, test } from 'vitest'

import { parseTarget, targetText, type Target } from './target'

const print = (width: number | null, height: number | null, unit: 'mm' | 'cm' | 'in'): Target => ({
  by: 'print',
  width,
  height,
  unit,
  ppi: 240,
  mode: 'fit',
})

test.each<[string, Target]>([
  ['x4', { by: 'factor', factor: 4 }],
  ['× 3,7', { by: 'factor', factor: 3.7 }],
  ['2.5', { by: 'factor', factor: 2.5 }],
  ['250 %', { by: 'factor', factor: 2.5 }],
  ['4000 px', { by: 'width', pixels: 4000 }],
  ['3000px high', { by: 'height', pixels: 3000 }],
  ['1200 pixels w', { by: 'width', pixels: 1200 }],
  ['60 × 90 cm', print(60, 90, 'cm')],
  ['24x36 in', print(24, 36, 'in')],
  ['24 * 36"', print(24, 36, 'in')],
  ['24in', print(24, null, 'in')],
  ['40,5 cm high', print(null, 40.5, 'cm')],
  ['210 mm wide', print(210, null, 'mm')],
])('“%s” is understood', (text, target) => {
  expect(parseTarget(text, 240)).toEqual(target)
})

test.each(['', 'large', '60 × cm', '-4', '4000 px deep', '1.5 px', '60 × 90', 'x'])('“%s” is no size', (text) => {
  expect(parseTarget(text, 240)).toBeUndefined()
})

test.each<Target>([
  { by: 'factor', factor: 3.7 },
  { by: 'width', pixels: 4000 },
  { by: 'height', pixels: 3000 },
  print(60, 90, 'cm'),
  print(24, null, 'in'),
  print(null, 40.5, 'cm'),
])('what the field says of a target is understood as that target', (target) => {
  expect(parseTarget(targetText(target), 240)).toEqual(target)
})
