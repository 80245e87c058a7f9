import { describe, expect, test } from 'vitest'

import { patchesText, takenFrom, type Patch } from './patches'

const patch = (on = true) =>
  ({ stroke: { points: [[100, 50]], size: 10 }, way: 'mend', x: 5, y: 6, on }) as unknown as Patch

describe('patches', () => {
  test('are told in a line', () => {
    expect(patchesText([])).toBe('nothing painted yet')
    expect(patchesText([patch()])).toBe('1 place')
    expect(patchesText([patch(), patch(false), patch()])).toBe('2 places · 1 off')
  })
  test('take from where they are told to', () => {
    expect(takenFrom(patch(), [130.456, 20])).toMatchObject({ x: 30.46, y: -30, on: true })
  })
})
