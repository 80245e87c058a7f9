import type { OutputSpec } from './useDeliveries'

/** How a file is written, apart from its ppi and the paper around it. */
export type Output = Required<Omit<OutputSpec, 'ppi' | 'layout'>>

export const usualOutput: Output = {
  format: 'tiff',
  depth: 16,
  compression: 'zip',
  tiled: false,
  quality: 92,
  lossless: false,
  progressive: false,
  chroma: 'full',
  profile: 'keep',
  intent: 'relative',
  black_point: true,
  metadata: true,
  location: true,
  longest_side: null,
}

export const formats: { value: Output['format']; title: string; what: string }[] = [
  { value: 'tiff', title: 'TIFF', what: 'All that was computed, for printers and archives' },
  { value: 'png', title: 'PNG', what: 'Lossless, for screens' },
  { value: 'jpeg', title: 'JPEG', what: 'Small, for clients and shops' },
  { value: 'webp', title: 'WebP', what: 'Smaller, for the web' },
  { value: 'pdf', title: 'PDF', what: 'A page for print, with trim and bleed boxes' },
]

/** What camera raws can be delivered as besides. */
export const ofRaws: (typeof formats)[number] = {
  value: 'dng',
  title: 'DNG',
  what: 'Linear, in the colours of its camera, for raw developers',
}

/** The spec that is written: formats that have 8 bits have 8, and 32-bit float is TIFF in the source's space. */
export function written(output: Output): Output {
  const eight = output.format === 'jpeg' || output.format === 'webp' || (output.format === 'pdf' && !output.lossless)
  if (eight) return { ...output, depth: 8 }
  if (output.format === 'dng') return { ...output, depth: 16, profile: 'keep' }
  const floats = output.format === 'tiff' && output.profile === 'keep'
  return output.depth === 32 && !floats ? { ...output, depth: 16 } : output
}

const wide = /pro\s?photo|romm|2020|wide/i

/** What is wrong with writing a file like this from a source with that profile; empty if nothing is. */
export function outputWarning(output: Output, sourceProfile: string | null): string {
  const kept = output.profile === 'keep'
  if (written(output).depth !== 8 || !(kept ? wide.test(sourceProfile ?? '') : output.profile === 'prophoto-rgb'))
    return ''
  const way = ['tiff', 'png'].includes(output.format) ? 'Choose 16 bit, or a smaller space.' : 'Choose a smaller space.'
  return `${kept ? sourceProfile : 'ProPhoto RGB'} spreads 8 bit so far that smooth tones show steps. ${way}`
}
