import type { StepOf } from './kinds'

export type Denoise = StepOf<'denoise'>
export type Trade = Required<Pick<Denoise, 'luminance' | 'colour' | 'detail'>>

/** The ends of the trade of noise against detail: nothing grainy is left, or whatever may be detail is kept. */
export const cleanest: Trade = { luminance: 100, colour: 100, detail: 0 }
export const mostDetailed: Trade = { luminance: 50, colour: 75, detail: 80 }

const names = ['luminance', 'colour', 'detail'] as const

/** Settings on the way from cleanest (0) to most detailed (100). */
export function tradeAt(place: number): Trade {
  const share = place / 100
  const at = (name: (typeof names)[number]) =>
    Math.round(cleanest[name] + share * (mostDetailed[name] - cleanest[name]))
  return { luminance: at('luminance'), colour: at('colour'), detail: at('detail') }
}

/** Where settings lie on that way; null for those beside it. */
export function placeOf(trade: Trade): number | null {
  const off = (place: number) => {
    const there = tradeAt(place)
    return names.reduce((sum, name) => sum + Math.abs(there[name] - trade[name]), 0)
  }
  const places = Array.from({ length: 101 }, (_, place) => place)
  const nearest = places.reduce((best, place) => (off(place) < off(best) ? place : best))
  return off(nearest) <= 1 ? nearest : null
}
