import { expect, test } from 'vitest'

import { printed, tokenIn } from './showing'

test('what opens the showing is taken from the address of the page', () => {
  expect(tokenIn('/shown/abc123')).toBe('abc123')
  expect(tokenIn('/shown/abc123/')).toBe('abc123')
  expect(tokenIn('/jobs/7')).toBe('')
})

test('how large it is printed is told only where somebody said so', () => {
  expect(printed({ width: 3000, height: 2000, ppi: 300 })).toBe('printed 25.4 × 16.9 cm at 300 ppi')
  expect(printed({ width: 3000, height: 2000, ppi: null })).toBe('')
})
