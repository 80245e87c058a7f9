import { expect, test } from 'vitest'

import { about, duration, fileSize, length, megapixels, number, pixelSize, signed } from './format'

test.each([
  [640, 480, '0.31 MP'],
  [5000, 4000, '20.0 MP'],
  [18000, 12000, '216 MP'],
])('%d × %d px are %s', (width, height, text) => {
  expect(megapixels(width, height)).toBe(text)
})

test.each([
  [0, '0 B'],
  [999, '999 B'],
  [1000, '1 kB'],
  [1_500_000, '1.5 MB'],
  [25_000_000, '25 MB'],
  [3_210_000_000, '3.21 GB'],
])('%d bytes are %s', (bytes, text) => {
  expect(fileSize(bytes)).toBe(text)
})

test.each([
  [0, 'under 1 s'],
  [0.99, 'under 1 s'],
  [1, '1 s'],
  [89, '89 s'],
  [90, '2 min'],
  [5399, '90 min'],
  [5400, '1.5 h'],
])('%d seconds are %s', (seconds, text) => {
  expect(duration(seconds)).toBe(text)
})

test.each([
  [60, '60'],
  [40.5, '40.5'],
  [29.96, '30'],
  [100.4, '100'],
])('a length of %d reads %s', (value, text) => {
  expect(length(value)).toBe(text)
})

test('a number has no more digits than it needs', () => {
  expect(number(2)).toBe('2')
  expect(number(2.5)).toBe('2.5')
  expect(number(1 / 3)).toBe('0.33')
  expect(number(1 / 3, 0)).toBe('0')
})

test('a size is told with its sides', () => {
  expect(pixelSize({ width: 3, height: 4 })).toBe('3 × 4')
})

test('an expected time is about so long, unless it is told as a limit', () => {
  expect(about(12)).toBe('about 12 s')
  expect(about(0.4)).toBe('under 1 s')
})

test('a signed number says which way', () => {
  expect([signed(1.5), signed(-0.25), signed(0)]).toEqual(['+1.5', '-0.25', '0'])
})
