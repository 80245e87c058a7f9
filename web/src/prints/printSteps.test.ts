import { expect, test } from 'vitest'

import type { Schemas } from '../api/client'
import { kindOf, type StepKind } from '../steps/kinds'
import { printPpi } from './ppi'
import { besidesText, cropped, printSteps } from './printSteps'
import type { PrintNeed } from './usePrints'

type Take = Schemas['TakeOut']
type Step = Take['steps'][number]

const step = (kind: StepKind, more: object = {}) => ({ ...kindOf(kind).begun, ...more }) as Step
const take = (...steps: Step[]) => ({ steps }) as Take
const need = { size: { width: 40, height: 60, unit: 'cm' }, ppi: 251.4 } as PrintNeed
const kinds = (steps: Step[]) => steps.map(({ kind }) => kind)
const target = (steps: Step[]) => steps.find((one) => one.kind === 'enlarge')!.target

test('a take that is not enlarged yet is, where enlarging belongs', () => {
  const steps = printSteps(take(step('frame'), step('denoise'), step('grain')), need, 'fit', 0, null)
  expect(kinds(steps)).toEqual(['frame', 'denoise', 'enlarge', 'grain'])
  expect(target(steps)).toEqual({ by: 'print', width: 40, height: 60, unit: 'cm', ppi: 251, mode: 'fit' })
})

test('one that is keeps all of its enlargement but the size, and has it on', () => {
  const enlarge = step('enlarge', { on: false, texture: 30 })
  const steps = printSteps(take(enlarge, step('grain')), need, 'fill', 0, null)
  expect(steps[0]).toEqual({ ...enlarge, on: true, target: expect.objectContaining({ mode: 'fill' }) })
})

test.each([
  ['cm', 40, 60, 38, 58],
  ['mm', 400, 600, 380, 580],
  ['in', 16, 24, 15.213, 23.213],
] as const)('a border of 10 mm is left free on every side in %s', (unit, width, height, inside, along) => {
  const sized = { ...need, size: { width, height, unit } } as PrintNeed
  expect(target(printSteps(take(), sized, 'fit', 10, null))).toMatchObject({ width: inside, height: along })
})

test('however far it is seen from, there are ten pixels to the inch', () => {
  expect(target(printSteps(take(), { ...need, ppi: 2 }, 'fit', 0, null))).toMatchObject({ ppi: 10 })
})

test('an earlier plan’s sharpening for the paper makes room for this one’s', () => {
  const paper = step('sharpen', { amount: 80 })
  const planned = printSteps(take(), need, 'fit', 0, paper)
  expect(kinds(planned)).toEqual(['enlarge', 'sharpen'])
  const again = printSteps(take(...planned), need, 'fit', 0, step('sharpen', { amount: 120 }))
  expect(kinds(again)).toEqual(['enlarge', 'sharpen'])
  expect(again.at(-1)).toMatchObject({ amount: 120 })
})

test('a person’s own sharpening stays, and the paper’s comes after it', () => {
  const own = step('sharpen', { amount: 60, detail: 0, threshold: 9 })
  const planned = printSteps(take(step('enlarge'), own), need, 'fit', 0, step('sharpen', { amount: 80 }))
  expect(planned.slice(1)).toEqual([own, expect.objectContaining({ amount: 80 })])
})

const landscape = { plan: { canvas: { width: 4000, height: 3000 }, crop: { x: 0, y: 0, width: 4000, height: 3000 } } }
const framed = (...steps: Step[]) => ({ ...take(...steps), ...landscape }) as Take

test('to fill a paper of another shape the picture is cropped, about its middle and no further than it must be', () => {
  const steps = printSteps(framed(step('enlarge')), need, 'fill', 0, null)
  expect(kinds(steps)).toEqual(['frame', 'enlarge'])
  expect(steps[0]).toMatchObject({ crop: { x: 0, y: 167, width: 4000, height: 2667 } })
  expect(kinds(printSteps(framed(step('enlarge')), need, 'fit', 0, null))).toEqual(['enlarge'])
})

test('a crop that has the shape already stays where it was drawn', () => {
  const crop = { x: 90, y: 10, width: 1500, height: 1000 }
  const given = { ...framed(step('frame', { crop })), plan: { ...landscape.plan, crop } } as Take
  expect(cropped(given, { width: 40, height: 60 })).toBe(given.steps)
})

test('what becomes of another shape is told', () => {
  const size = { width: 4000, height: 3000 }
  const paper = { width: 60, height: 90, unit: 'cm' } as const
  expect(besidesText(size, paper, 'fill')).toMatch(/^11 % of the picture is cut off/)
  expect(besidesText(size, paper, 'fit')).toBe('10 cm of its width stay white')
  expect(besidesText({ width: 3000, height: 2000 }, paper, 'fit')).toBe('')
})

test('the take itself is left as it is', () => {
  const given = take(step('enlarge'), step('sharpen'))
  const before = structuredClone(given)
  printSteps(given, need, 'fit', 5, step('sharpen'))
  expect(given).toEqual(before)
})

test('a take is printed with the ppi of its enlargement, else the order’s, else 300', () => {
  const order = { width: 1, height: 1, unit: 'cm', ppi: 200 } as Schemas['PrintOrder']
  const enlarged = take(...printSteps(take(), need, 'fit', 0, null))
  expect(printPpi(enlarged, order)).toBe(251)
  expect(printPpi(take({ ...enlarged.steps[0]!, on: false }), order)).toBe(200)
  expect(printPpi(take(step('enlarge')), order)).toBe(200)
  expect(printPpi(take(), null)).toBe(300)
})
