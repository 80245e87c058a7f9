import { expect, test } from 'vitest'

import { originalLayer, resultLayer, sameLayer, tileOf, type Plan, type Show } from './layer'

const lead = {
  chain: 'aaa',
  framed_chain: 'fff',
  size: { width: 1600, height: 1200 },
  framed: { width: 400, height: 300 },
  crop: { x: 100, y: 50, width: 400, height: 300 },
} as Plan
const tighter = { ...lead, chain: 'bbb', crop: { x: 200, y: 50, width: 200, height: 150 } }

test('the leading take fills the unit', () => {
  expect(resultLayer('t', lead, lead).at).toEqual({ x: 0, y: 0, width: 1 })
})

test('another crop of the same canvas lies where it lies in the picture, whatever it is enlarged to', () => {
  const at = { x: 0.25, y: 0, width: 0.5 }
  expect(resultLayer('u', tighter, lead).at).toEqual(at)
  expect(resultLayer('u', { ...tighter, size: { width: 4000, height: 3000 } }, lead).at).toEqual(at)
  expect(originalLayer('u', tighter, lead).at).toEqual(at)
})

test('seen from the other one, it is the other way round', () => {
  const there = resultLayer('u', tighter, lead).at
  const back = resultLayer('t', lead, tighter).at
  expect(back.width * there.width).toBeCloseTo(1)
  expect(back.x * there.width + there.x).toBeCloseTo(0)
})

test('the original has the framed size and a chain of its own', () => {
  const layer = originalLayer('t', lead, lead)
  expect(layer.size).toEqual(lead.framed)
  expect(tileOf(layer, 2, 3, 4)).toBe('/api/takes/t/tiles/fff/2/3_4.png')
})

test.each<[Show, string]>([
  [{ as: 'pixels' }, ''],
  [{ as: 'clipping' }, '?show=clipping'],
  [{ as: 'mask', step: 2 }, '?show=mask&step=2'],
  [{ as: 'difference', gain: 8, against: 'original' }, '?show=difference&gain=8&against=original'],
  [
    {
      as: 'proof',
      proof: { printer: 'a b', intent: 'perceptual', black_point: true, paper: false, warn: true },
    },
    '?show=proof&printer=a+b&intent=perceptual&black_point=true&paper=false&warn=true',
  ],
])('%o is asked for with “%s”', (show, query) => {
  const tile = tileOf(resultLayer('t', lead, lead, show), 0, 1, 2)
  expect(tile).toBe(`/api/takes/t/tiles/aaa/0/1_2.png${query}`)
})

test('layers are the same while their tiles, their way and their place are', () => {
  const layer = resultLayer('t', lead, lead)
  expect(sameLayer(layer, resultLayer('t', lead, lead))).toBe(true)
  expect(sameLayer(layer, resultLayer('t', lead, lead, { as: 'clipping' }))).toBe(false)
  expect(sameLayer(layer, resultLayer('t', { ...lead, chain: 'ccc' }, lead))).toBe(false)
  expect(sameLayer(layer, resultLayer('t', lead, tighter))).toBe(false)
})
