import { describe, expect, test } from 'vitest'

import {
  dismiss,
  ghostOf,
  madeBy,
  movedTo,
  patchesText,
  patching,
  refuse,
  takenFrom,
  wanted,
  type Patch,
} from './patches'

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
  test('are moved, and what they take stays where it is', () => {
    const moved = movedTo(patch(), [110, 45])
    expect(moved.stroke.points).toEqual([[110, 45]])
    expect(moved).toMatchObject({ x: -5, y: 11 })
  })
  test('that come from elsewhere now begin beside themselves', () => {
    const here = { ...patch(), way: 'fill', x: 0, y: 0 } as Patch
    expect(madeBy(here, 'clone')).toMatchObject({ way: 'clone', x: 15 })
    expect(madeBy(patch(), 'clone')).toMatchObject({ way: 'clone', x: 5 })
    expect(madeBy(here, 'take').x).toBe(0)
  })
  test('show where they take from, turned and scaled', () => {
    const points = [
      [100, 50],
      [110, 50],
    ]
    const long = { ...patch(), stroke: { points, size: 10 }, turn: 90, scale: 2 } as unknown as Patch
    const ghost = ghostOf(long)
    expect(ghost[0]).toEqual([105, 56])
    expect(ghost[1]![0]).toBeCloseTo(105)
    expect(ghost[1]![1]).toBeCloseTo(51)
  })
  test('that were found are wanted by how sure they are, unless refused', () => {
    patching.found = [0.99, 0.9, 0.5].map((sure) => ({ sure, kind: 'speck', patch: patch() }))
    patching.least = 80
    expect(wanted()).toEqual([0, 1])
    refuse(0)
    expect(wanted()).toEqual([1])
    refuse(0)
    patching.least = 40
    expect(wanted()).toEqual([0, 1, 2])
    dismiss()
    expect(wanted()).toEqual([])
  })
})
