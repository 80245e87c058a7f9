import type { Schemas } from '../api/client'
import { number } from '../parts/format'

export type Reading = Schemas['Reading']

export interface Measured {
  what: string
  value: string
  confidence: number
}

/** Shares of each channel in percent. */
function percent(shares: number[]): string {
  const names = shares.length > 2 ? 'RGB' : ' '
  return shares
    .slice(0, names.length)
    .map((share, index) => `${names[index]} ${number(share * 100, share < 0.001 ? 2 : 1)}`.trim())
    .join(' ')
}

function blur({ blur: found }: Reading): string {
  const size = `${number(found.size_px, 1)} px`
  switch (found.kind) {
    case 'focus':
      return `missed focus, radius ${size}`
    case 'motion':
      return `movement, ${size} at ${number(found.angle_deg, 0)}°`
    case 'soft':
      return `softness, σ ${size}`
    default:
      return 'none'
  }
}

const kinds: Record<Reading['kind'], string> = {
  photo: 'photograph',
  drawing: 'drawing or lettering',
  render: 'render',
  texture: 'even all over',
}

/** How many faces there are and how large; empty if there are none. */
export function facesText({ faces = [] }: Pick<Reading, 'faces'>): string {
  if (!faces.length) return ''
  const widths = faces.map((one) => Math.round(one.width_px))
  const [least, most] = [Math.min(...widths), Math.max(...widths)]
  const wide = least === most ? `${most} px wide` : `${least} to ${most} px wide`
  return `${faces.length === 1 ? '1 face' : `${faces.length} faces`}, ${wide}`
}

/** Everything that was measured, a line each. */
export function measuredLines(reading: Reading): Measured[] {
  const { noise, compression, clipped } = reading
  return [
    { what: 'noise', value: `σ ${number(noise.luminance, 1)} luminance`, confidence: noise.luminance_confidence },
    { what: '', value: `σ ${number(noise.colour, 1)} colour`, confidence: noise.colour_confidence },
    { what: 'blur', value: blur(reading), confidence: reading.blur.confidence },
    {
      what: 'compression',
      value: compression.quality ? `JPEG quality ${compression.quality}` : 'no trace',
      confidence: compression.confidence,
    },
    {
      what: 'resolution',
      value: reading.enlarged_by > 1 ? `enlarged ${number(reading.enlarged_by, 2)} × before` : 'as its pixels say',
      confidence: reading.enlarged_by_confidence,
    },
    { what: 'black', value: `${percent(clipped.shadows)} %`, confidence: clipped.confidence },
    { what: 'white', value: `${percent(clipped.highlights)} %`, confidence: clipped.confidence },
    { what: 'kind', value: kinds[reading.kind], confidence: reading.kind_confidence },
    {
      what: 'faces',
      value: facesText(reading) || 'none found',
      // Small faces are easily missed.
      confidence: reading.faces.length ? Math.min(...reading.faces.map((one) => one.confidence)) : 0.6,
    },
  ]
}

/** How far a measurement is to be trusted, in a word. */
export function trust(confidence: number): string {
  return confidence >= 0.8 ? 'sure' : confidence >= 0.6 ? 'likely' : 'unsure'
}

/** What stands out, in one line; beside a file's facts, what they tell already is left out. */
export function readingLine(reading: Reading, facts?: Schemas['Facts']): string {
  const { noise, compression } = reading
  return [
    reading.damage?.length ? 'damaged, or so it seems' : null,
    noise.colour >= 1.3 || noise.luminance >= (reading.raw ? 1.6 : 6) ? `noise σ ${number(noise.luminance, 1)}` : null,
    reading.blur.kind !== 'none' && reading.blur.confidence >= 0.6 ? blur(reading) : null,
    compression.quality && compression.quality < 92 && !facts?.quality
      ? `compressed to quality ${compression.quality}`
      : null,
    reading.enlarged_by > 1.2 && reading.enlarged_by_confidence >= 0.6
      ? `enlarged ${number(reading.enlarged_by, 1)} × before`
      : null,
    facesText(reading) || null,
    reading.kind === 'photo' || reading.kind_confidence < 0.6 ? null : kinds[reading.kind],
  ]
    .filter(Boolean)
    .join(' · ')
}
