import { expect, test } from 'vitest'

import type { Plan } from '../viewer/layer'
import { cutOf, faceInBox, facesText, inResult, squareOf, widthOf, without, type Faces } from './faces'

const face = faceInBox([100, 60], [140, 110])
const step = (changed: Partial<Faces> = {}) => ({ kind: 'faces', strength: 35, faces: [face], ...changed }) as Faces

test('a box becomes a face of its width, whichever corner it was drawn from', () => {
  expect(Math.abs(widthOf(face) - 40)).toBeLessThan(8)
  expect(faceInBox([140, 110], [100, 60])).toEqual(face)
  const { x, y } = squareOf(face)
  expect(x).toBeCloseTo(120)
  expect(y).toBeGreaterThan(75)
  expect(y).toBeLessThan(95)
})

test('a face is found again in a result that was cropped, turned and enlarged', () => {
  const { x, y, side } = squareOf(face)
  const enlarged = { to_source: [{ affine: [0.25, 0, 80, 0, 0.25, 40], warp: null }] } as unknown as Plan
  expect(inResult(face, enlarged)).toEqual({ x: 4 * (x - 80), y: 4 * (y - 40), side: 4 * side })
  const turned = { to_source: [{ affine: [0, 1, 0, -1, 0, 300], warp: null }] } as unknown as Plan
  expect(inResult(face, turned)).toEqual({ x: 300 - y, y: x, side })
})

test('what is on the line says how many faces are restored', () => {
  expect(facesText(step({ faces: [] }))).toBe('no face yet')
  expect(facesText(step())).toBe('1 face · strength 35')
  expect(facesText(step({ faces: [face, { ...face, on: false }] }))).toBe('1 of 2 faces · strength 35')
})

test('before means without that step alone', () => {
  const steps = [step(), { ...step(), strength: 50 }]
  expect(without(steps, 1).map((one) => one.on)).toEqual([undefined, false])
})

test('a cell shows most of a face, and never more than can be asked for', () => {
  const plan = {
    to_source: [{ affine: [0.25, 0, 0, 0, 0.25, 0], warp: null }],
    size: { width: 1600, height: 1000 },
  } as unknown as Plan
  const { x, y, side } = squareOf(face)
  const cut = cutOf(face, plan)
  expect([cut.x * 1600, cut.y * 1000]).toEqual([4 * x, 4 * y])
  expect(cut.width).toBe(Math.round(0.8 * 4 * side))
  expect(cutOf(face, plan, 100).height).toBe(100)
})
