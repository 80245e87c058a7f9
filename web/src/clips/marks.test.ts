import { describe, expect, test } from 'vitest'

import { around, curvePoints, marked, momentPoints, momentText, sharpest } from './marks'

describe('marks', () => {
  test('ends do not cross', () => {
    expect(marked(null, 'first', 5)).toEqual({ first: 5, last: 5 })
    expect(marked({ first: 5, last: 8 }, 'first', 10)).toEqual({ first: 10, last: 10 })
    expect(marked({ first: 5, last: 8 }, 'last', 2)).toEqual({ first: 2, last: 2 })
    expect(marked({ first: 5, last: 8 }, 'last', 20)).toEqual({ first: 5, last: 20 })
  })
  test('the sharpest frame of a range is found, within it', () => {
    const sharpness = [9, 1, 2, 7, 3, 8]
    expect(sharpest({ first: 1, last: 4 }, sharpness)).toBe(3)
    expect(sharpest({ first: 1, last: 4 }, undefined)).toBe(3)
  })
  test('frames around one stay within the range and are no more than asked for', () => {
    for (let frame = 3; frame <= 30; frame++) {
      const { first, last } = around(frame, { first: 3, last: 30 }, 8)
      expect(last - first).toBe(7)
      expect(first).toBeGreaterThanOrEqual(3)
      expect(last).toBeLessThanOrEqual(30)
      expect(first <= frame && frame <= last).toBe(true)
    }
    expect(around(4, { first: 3, last: 5 }, 8)).toEqual({ first: 3, last: 5 })
  })
  test('a curve has the sharpest at the top', () => {
    expect(curvePoints([1, 3, 2])).toBe('0,1 0.5,0 1,0.5')
    expect(curvePoints([2])).toBe('0,1')
  })
  test('what eyes do is told in words', () => {
    const moment = { frame: 2, faces: 1, open: 1, towards: 1, light: 1, good: 1 }
    expect(momentText(moment)).toBe('eyes open, looking here, a light in them')
    expect(momentText({ ...moment, towards: 0.2, light: 0 })).toBe('eyes open, looking aside')
    expect(momentText({ ...moment, faces: 3, open: 0.1 })).toBe('3 faces, eyes shut')
    expect(momentText({ ...moment, open: 0.5, light: 0.2 })).toBe('eyes half open, looking here')
  })
  test('moments lie where their frames are', () => {
    const moment = { frame: 0, faces: 1, open: 1, towards: 1, light: 1, good: 0.25 }
    expect(momentPoints([moment, { ...moment, frame: 5, good: 1 }], 11)).toBe('0,0.75 0.5,0')
    expect(momentPoints([moment], 1)).toBe('0,0.75')
  })
})
