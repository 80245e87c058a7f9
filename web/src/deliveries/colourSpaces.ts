import type { OutputSpec } from './useDeliveries'

type Space = NonNullable<OutputSpec['profile']>
type Intent = NonNullable<OutputSpec['intent']>

/** Colour spaces files can be converted to; `kept` says what keeping means. */
export function colourSpaces(kept: string): { value: Space; title: string }[] {
  return [
    { value: 'keep', title: kept },
    { value: 'srgb', title: 'sRGB, for screens and most shops' },
    { value: 'display-p3', title: 'Display P3' },
    { value: 'a98-rgb', title: 'A98 RGB, for printers' },
    { value: 'rec2020-rgb', title: 'Rec. 2020, in 16 bit' },
    { value: 'prophoto-rgb', title: 'ProPhoto RGB, in 16 bit' },
  ]
}

/** What becomes of colours the wanted space does not hold. */
export const intents: { value: Intent; title: string }[] = [
  { value: 'relative', title: 'Relative colorimetric' },
  { value: 'perceptual', title: 'Perceptual' },
  { value: 'saturation', title: 'Saturation' },
  { value: 'absolute', title: 'Absolute colorimetric' },
]
