import { expect, test } from 'vitest'

import { cornerCuts } from './laid'

test('corners meet as four copies do', () => {
  expect(cornerCuts({ width: 1000, height: 800 }, 300, 210)).toEqual([
    { x: 700, y: 590, width: 300, height: 210 },
    { x: 0, y: 590, width: 300, height: 210 },
    { x: 700, y: 0, width: 300, height: 210 },
    { x: 0, y: 0, width: 300, height: 210 },
  ])
})
test('of a small texture they are all of it', () => {
  expect(cornerCuts({ width: 40, height: 30 }, 300, 210)).toEqual(
    Array.from({ length: 4 }, () => ({ x: 0, y: 0, width: 40, height: 30 })),
  )
})
