import { number } from '../parts/format'
import type { Candidate } from './queries'

/** dB by which two candidates must differ for that to mean anything. */
export const clear = 0.15

/** How much nearer to the truth than plain enlarging, with its sign. */
export const gainText = ({ gain }: Pick<Candidate, 'gain'>) => `${gain < 0 ? '−' : '+'}${Math.abs(gain).toFixed(2)} dB`

const kinds = ({ called }: Pick<Candidate, 'called'>) => called.replace(/ \d+/g, '')

/** What the best one leads by, in a sentence. */
export function leadText(candidates: readonly Pick<Candidate, 'gain' | 'called'>[]): string {
  const best = candidates[0]
  // What differs in strength alone is no other choice.
  const next = candidates.find((one) => best && kinds(one) !== kinds(best))
  if (!best || !next) return ''
  const lead = best.gain - next.gain
  return lead >= clear
    ? `${best.called} leads by ${number(lead, 1)} dB.`
    : `${best.called} and ${next.called} come out alike: make both takes and compare.`
}

/** How a sheet of squares is shifted so that the one at a place is seen, in CSS. */
export const cellStyle = (address: string, place: number, side: number) => ({
  width: `${side}px`,
  height: `${side}px`,
  backgroundImage: `url("${address}")`,
  backgroundSize: `auto ${side}px`,
  backgroundPosition: `-${place * side}px 0`,
})
