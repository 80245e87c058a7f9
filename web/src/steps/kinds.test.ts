import { expect, test } from 'vitest'

import { kindOf, kindsOfSteps, placeFor, type StepKind } from './kinds'

const line = (...kinds: StepKind[]) => kinds.map((kind) => ({ kind }))
/** The line once a step of a kind is put on it. */
const after = (kind: StepKind, ...kinds: StepKind[]) => kinds.toSpliced(placeFor(kind, line(...kinds)), 0, kind)

test('every kind says what it is and begins with settings of its own', () => {
  for (const { kind, title, begun } of kindsOfSteps) {
    expect(title).not.toBe('')
    expect(begun.kind).toBe(kind)
    expect(kindOf(kind).begun).toEqual(begun)
  }
})

test('a frame comes first', () => {
  expect(after('frame', 'denoise', 'enlarge')).toEqual(['frame', 'denoise', 'enlarge'])
})
test('what restores comes before enlarging, behind what is there', () => {
  expect(after('repair', 'frame', 'denoise', 'enlarge', 'sharpen')).toEqual([
    'frame',
    'denoise',
    'repair',
    'enlarge',
    'sharpen',
  ])
  expect(after('deblur')).toEqual(['deblur'])
})
test('light is set before anything else is done to the source', () => {
  expect(after('exposure', 'frame', 'denoise', 'enlarge')).toEqual(['frame', 'exposure', 'denoise', 'enlarge'])
})
test('enlarging comes before what finishes', () => {
  expect(after('enlarge', 'frame', 'denoise', 'grain')).toEqual(['frame', 'denoise', 'enlarge', 'grain'])
})
test('what finishes stands among itself in the order it is offered in', () => {
  expect(after('sharpen', 'enlarge', 'grain')).toEqual(['enlarge', 'sharpen', 'grain'])
  expect(after('give-back', 'enlarge', 'sharpen')).toEqual(['enlarge', 'give-back', 'sharpen'])
  expect(after('grain', 'enlarge', 'sharpen')).toEqual(['enlarge', 'sharpen', 'grain'])
})
test('a line that was put in an order of its own keeps it', () => {
  expect(after('denoise', 'sharpen', 'enlarge')).toEqual(['denoise', 'sharpen', 'enlarge'])
})
