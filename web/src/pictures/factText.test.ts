import { expect, test } from 'vitest'

import { cameraLine, depthLine, fileLine, pixelLine, printLine } from './factText'
import type { Facts } from './usePictures'

const facts = {
  width: 1200,
  height: 800,
  bits: 8,
  format: 'JPEG',
  quality: 85,
  colour: 'RGB',
  profile: 'Display P3',
  bytes: 412_000,
  ppi: 72,
  print_width_cm: 10.16,
  print_height_cm: 6.77,
  camera: null,
  lens: null,
  iso: null,
  aperture: null,
  exposure_s: null,
  focal_mm: null,
} as unknown as Facts

test('what a file is', () => {
  expect(pixelLine(facts)).toBe('1200 × 800 px · 0.96 MP')
  expect(depthLine(facts)).toBe('JPEG, quality 85 · 8 bit RGB · Display P3')
  expect(fileLine(facts)).toBe('412 kB · tagged 72 ppi')
  expect(printLine(facts)).toBe('carries 10.2 × 6.8 cm at 300 ppi as it stands')
})

test('what a file does not say is said', () => {
  const plain = { ...facts, format: 'TIFF', quality: null, bits: 32, profile: null, ppi: null } as unknown as Facts
  expect(depthLine(plain)).toBe('TIFF · 32 bit float RGB · no profile, taken as sRGB')
  expect(fileLine(plain)).toBe('412 kB · no ppi tag')
})

test('how it was taken, as far as it is known', () => {
  expect(cameraLine(facts)).toBe('')
  const taken = { ...facts, camera: 'C', lens: 'L', iso: 800, aperture: 2.8, focal_mm: 50.4 } as Facts
  expect(cameraLine({ ...taken, exposure_s: 1 / 250 } as Facts)).toBe('C · L · ISO 800 · f/2.8 · 1/250 s · 50 mm')
  expect(cameraLine({ ...facts, exposure_s: 1.5 } as Facts)).toBe('1.5 s')
})
