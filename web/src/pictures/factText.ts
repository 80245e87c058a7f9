import { fileSize, length, megapixels, number } from '../parts/format'
import type { Facts } from './usePictures'

/** The facts of a picture as short lines: what it is, and how it was taken. */
export function pixelLine(facts: Facts): string {
  return `${facts.width} × ${facts.height} px · ${megapixels(facts.width, facts.height)}`
}

export function depthLine(facts: Facts): string {
  const bits = facts.bits === 32 ? '32 bit float' : `${facts.bits} bit`
  if (facts.raw) {
    const { bits, black, white, mosaic } = facts.raw
    const samples = `${bits} bit ${mosaic ? 'mosaic' : 'linear'}, black ${number(black, 0)}, white ${number(white, 0)}`
    return `${facts.format} · ${samples} · ${facts.profile}`
  }
  const format = facts.quality ? `${facts.format}, quality ${facts.quality}` : facts.format
  return `${format} · ${bits} ${facts.colour} · ${facts.profile ?? 'no profile, taken as sRGB'}`
}

export function fileLine(facts: Facts): string {
  return `${fileSize(facts.bytes)} · ${facts.ppi ? `tagged ${number(facts.ppi, 1)} ppi` : 'no ppi tag'}`
}

export function printLine(facts: Facts): string {
  return `carries ${length(facts.print_width_cm)} × ${length(facts.print_height_cm)} cm at 300 ppi as it stands`
}

export function cameraLine(facts: Facts): string {
  const exposure = facts.exposure_s
    ? facts.exposure_s < 0.5
      ? `1/${Math.round(1 / facts.exposure_s)} s`
      : `${number(facts.exposure_s, 1)} s`
    : null
  return [
    facts.camera,
    facts.lens,
    facts.iso ? `ISO ${facts.iso}` : null,
    facts.aperture ? `f/${number(facts.aperture, 1)}` : null,
    exposure,
    facts.focal_mm ? `${number(facts.focal_mm, 0)} mm` : null,
  ]
    .filter(Boolean)
    .join(' · ')
}
