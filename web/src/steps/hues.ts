import type { StepOf } from './kinds'

export type Colour = StepOf<'colour'>
export type HueAnchor = NonNullable<Colour['hues']>[number]
export type Tint = NonNullable<Colour['shadows']>

/** A hue as a patch of it looks on a screen. */
export const patch = (hue: number, chroma = 0.14, light = 0.72) => `oklch(${light} ${chroma} ${hue})`

/** A hue within the circle, in whole degrees. */
export const around = (hue: number) => ((Math.round(hue) % 360) + 360) % 360

/** An anchor as it is put at a hue. */
export const anchorAt = (hue: number): HueAnchor => ({
  hue: around(hue),
  reach: 40,
  turn: 0,
  saturation: 0,
  lightness: 0,
})

/** Where a tint stands on a disc of radius 1, and back; straight up is hue 90. */
export function onDisc({ hue, amount }: Tint): [number, number] {
  const angle = (hue / 180) * Math.PI
  return [(amount / 100) * Math.cos(angle), (amount / 100) * Math.sin(angle)]
}
export function ofDisc(x: number, y: number): Tint {
  return {
    hue: around((Math.atan2(y, x) / Math.PI) * 180),
    amount: Math.round(Math.min(1, Math.hypot(x, y)) * 100),
  }
}

/** An anchor in words. */
export function anchorText(anchor: HueAnchor): string {
  const told = [
    anchor.turn && `turned ${anchor.turn > 0 ? '+' : '−'}${Math.abs(Math.round(anchor.turn))}°`,
    anchor.saturation && `purity ${anchor.saturation > 0 ? '+' : '−'}${Math.abs(Math.round(anchor.saturation))}`,
    anchor.lightness && `light ${anchor.lightness > 0 ? '+' : '−'}${Math.abs(Math.round(anchor.lightness))}`,
  ].filter(Boolean)
  return told.join(' · ') || 'as it is'
}
