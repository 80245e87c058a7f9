import { describe, expect, test } from 'vitest'

import { handlesOf, outlinesOf, pulled } from './gradients'
import { kinds, kindOfPart, maskText, newPart, partText, waitsFor, type PartOf } from './parts'

const size = { width: 800, height: 600 }
const linear = newPart('linear') as PartOf<'linear'>
const radial = newPart('radial') as PartOf<'radial'>

describe('parts', () => {
  test.each(kinds)('$kind is put as what it is', ({ kind }) => {
    const part = newPart(kind)
    expect(kindOfPart(part)).toBe(kind)
    expect(partText(part)).not.toBe('')
  })

  test('what waits for something says so', () => {
    expect(waitsFor(newPart('sky'))).toBe('Not found yet')
    expect(waitsFor({ ...(newPart('sky') as PartOf<'found'>), plane: 'x' })).toBe('')
    expect(waitsFor(newPart('brush'))).toBe('Nothing is painted yet')
    expect(waitsFor(linear)).toBe('')
  })

  test('a mask is told in words, without what is off', () => {
    const parts = [newPart('sky'), { ...linear, how: 'meet' as const }, { ...newPart('brush'), on: false }]
    expect(maskText({ parts, inverted: false })).toBe('Sky within Linear gradient')
    expect(maskText(null)).toBe('')
  })
})

describe('gradients', () => {
  test('a handle that is pulled is where it was pulled to', () => {
    for (const part of [linear, radial])
      for (const { name } of handlesOf(part, size)) {
        const after = pulled(part, name, [420, 333], size)
        const handle = handlesOf(after, size).find((one) => one.name === name)!
        // A height is pulled straight out of the middle.
        if (name === 'down')
          expect(Math.hypot(handle.at[0] - 400, handle.at[1] - 300)).toBeCloseTo(Math.hypot(20, 33), 1)
        else expect([handle.at[0], handle.at[1]].map(Math.round)).toEqual([420, 333])
      }
  })

  test('moved as a whole it keeps its length and turn', () => {
    const after = pulled(linear, 'whole', [100, 100], size) as PartOf<'linear'>
    expect(after.end[1] - after.start[1]).toBeCloseTo(linear.end[1] - linear.start[1])
    expect(after.start[0]).toBeCloseTo(after.end[0])
  })

  test('outlines cross the line at a right angle, or go around', () => {
    const [first] = outlinesOf(linear, size)
    expect(first![0]![1]).toBeCloseTo(first![1]![1])
    const [around] = outlinesOf(radial, size)
    for (const [x, y] of around!) expect(Math.hypot(x - 400, y - 300)).toBeCloseTo(200)
  })
})
