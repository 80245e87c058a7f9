import type { StepOf } from './kinds'
import { length, number } from '../parts/format'

type Enlarge = StepOf<'enlarge'>
export type Target = NonNullable<Enlarge['target']>

/** A target as it stands in the field and on the line. */
export function targetText(target: Target): string {
  switch (target.by) {
    case 'factor':
      return `×${number(target.factor, 3)}`
    case 'width':
      return `${target.pixels} px wide`
    case 'height':
      return `${target.pixels} px high`
    case 'print': {
      const { width, height, unit } = target
      if (width && height) return `${length(width)} × ${length(height)} ${unit}`
      return width ? `${length(width)} ${unit} wide` : `${length(height ?? 0)} ${unit} high`
    }
  }
}

const numeral = String.raw`(\d+(?:[.,]\d+)?)`
const value = (text: string | undefined) => (text === undefined ? NaN : Number(text.replace(',', '.')))

/**
 * What a person types for a size: `x4`, `4`, `250 %`, `4000 px`, `3000 px high`, `60 × 90 cm`, `24in`, `40 cm high`.
 * Undefined if it is none of these. `ppi` is what prints are resolved at.
 */
export function parseTarget(text: string, ppi: number): Target | undefined {
  const typed = text.trim().toLowerCase()
  let match = new RegExp(`^(?:[x×]\\s*${numeral}|${numeral}\\s*[x×]?)$`).exec(typed)
  if (match) return { by: 'factor', factor: value(match[1] ?? match[2]) }
  match = new RegExp(`^${numeral}\\s*%$`).exec(typed)
  if (match) return { by: 'factor', factor: value(match[1]) / 100 }
  match = /^(\d+)\s*(?:px|pixels?)\s*(wide|high|w|h)?$/.exec(typed)
  if (match) return { by: match[2]?.startsWith('h') ? 'height' : 'width', pixels: Number(match[1]) }
  match = new RegExp(`^${numeral}\\s*[x×*]\\s*${numeral}\\s*(mm|cm|in|")$`).exec(typed)
  if (match) {
    return { by: 'print', width: value(match[1]), height: value(match[2]), unit: unitOf(match[3]!), ppi, mode: 'fit' }
  }
  match = new RegExp(`^${numeral}\\s*(mm|cm|in|")\\s*(wide|high|w|h)?$`).exec(typed)
  if (match) {
    const side = match[3]?.startsWith('h') ? { height: value(match[1]) } : { width: value(match[1]) }
    return { by: 'print', width: null, height: null, ...side, unit: unitOf(match[2]!), ppi, mode: 'fit' }
  }
  return undefined
}

function unitOf(text: string): 'mm' | 'cm' | 'in' {
  return text === 'mm' || text === 'cm' ? text : 'in'
}
