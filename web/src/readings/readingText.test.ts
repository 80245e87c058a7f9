import { describe, expect, test } from 'vitest'

import type { Schemas } from '../api/client'
import { facesText, measuredLines, readingLine, trust, type Reading } from './readingText'

const clean = {
  noise: { luminance: 0.4, colour: 0.2, luminance_confidence: 0.9, colour_confidence: 0.9 },
  blur: { kind: 'none', size_px: 0, angle_deg: 0, confidence: 0.9 },
  compression: { quality: null, confidence: 0.9 },
  clipped: { shadows: [0, 0, 0], highlights: [0, 0.0004, 0.25], confidence: 1 },
  enlarged_by: 1,
  enlarged_by_confidence: 0.9,
  kind: 'photo',
  faces: [],
  kind_confidence: 0.9,
} as unknown as Reading
const value = (reading: Reading, what: string) => measuredLines(reading).find((line) => line.what === what)!.value

describe('every measurement', () => {
  test('is told of a clean picture too', () => {
    expect(
      measuredLines(clean)
        .map(({ what }) => what)
        .filter(Boolean),
    ).toEqual(['noise', 'blur', 'compression', 'resolution', 'black', 'white', 'kind', 'faces'])
    expect(value(clean, 'compression')).toBe('no trace')
    expect(value(clean, 'resolution')).toBe('as its pixels say')
  })

  test('of clipping is a share of each channel, small ones not rounded away', () => {
    expect(value(clean, 'white')).toBe('R 0 G 0.04 B 25 %')
    expect(value({ ...clean, clipped: { ...clean.clipped, shadows: [0.5] } }, 'black')).toBe('50 %')
  })

  test.each([
    [{ kind: 'focus', size_px: 3.14 }, 'missed focus, radius 3.1 px'],
    [{ kind: 'motion', size_px: 12, angle_deg: 29.7 }, 'movement, 12 px at 30°'],
    [{ kind: 'soft', size_px: 1.25 }, 'softness, σ 1.3 px'],
    [{ kind: 'none', size_px: 2 }, 'none'],
  ])('of blur %o reads “%s”', (blur, text) => {
    expect(value({ ...clean, blur: { ...clean.blur, ...blur } } as Reading, 'blur')).toBe(text)
  })

  test('is trusted as far as it is sure', () => {
    expect([0.9, 0.8, 0.7, 0.6, 0.5].map(trust)).toEqual(['sure', 'sure', 'likely', 'likely', 'unsure'])
  })
})

describe('what stands out', () => {
  const facts = { quality: 70 } as Schemas['Facts']
  const worn = {
    ...clean,
    noise: { ...clean.noise, luminance: 8 },
    blur: { kind: 'soft', size_px: 2, angle_deg: 0, confidence: 0.7 },
    compression: { quality: 60, confidence: 0.9 },
    enlarged_by: 2,
  } as Reading

  test('of a clean photograph is nothing', () => {
    expect(readingLine(clean)).toBe('')
  })

  test('is told in one line', () => {
    expect(readingLine(worn)).toBe('noise σ 8 · softness, σ 2 px · compressed to quality 60 · enlarged 2 × before')
  })

  test('leaves out what the facts of the file tell already', () => {
    expect(readingLine(worn, facts)).not.toContain('quality')
  })

  test('is nothing that is only guessed', () => {
    const guessed = {
      ...clean,
      blur: { ...worn.blur, confidence: 0.4 },
      enlarged_by: 3,
      enlarged_by_confidence: 0.3,
      kind: 'lettering',
      kind_confidence: 0.5,
    } as unknown as Reading
    expect(readingLine(guessed)).toBe('')
  })
})

test('faces are counted, with their widths', () => {
  const place = [0, 0] as [number, number]
  const eyes = [place, place] as [typeof place, typeof place]
  const rest = { turn_deg: 0, eyes, mouth: place, confidence: 0.9, sure: true }
  const face = (width_px: number) => ({ x: 0, y: 0, width_px, ...rest })
  expect(facesText({ faces: [] })).toBe('')
  expect(facesText({ faces: [face(41.2)] })).toBe('1 face, 41 px wide')
  expect(facesText({ faces: [face(64), face(24.4)] })).toBe('2 faces, 24 to 64 px wide')
})
