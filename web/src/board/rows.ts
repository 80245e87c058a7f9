import type { Take } from '../takes/queries'
import { cutAddress, cutAround, fineness, type Cut } from './cell'
import type { Mark, Spot } from './useSpots'

export type BoardSize = 'folded' | 'open' | 'full'

export interface Cell {
  spot: Spot
  cut: Cut | null
  address: string | null
  mark: Mark
}
/** A take, or at the top the original plainly enlarged, in every spot. */
export interface Row {
  take: Take | null
  cells: Cell[]
}
export interface Extent {
  width: number
  height: number
}

export const rowName = (row: Row | undefined) => (row?.take ? row.take.name : 'original')

/** The take whose result is finest: what the zoom is told in, and what the original is enlarged to. */
export function finestOf(takes: Take[]): Take | undefined {
  return takes.reduce<Take | undefined>(
    (best, take) => (!best || fineness(take.plan!) > fineness(best.plan!) ? take : best),
    undefined,
  )
}

/** The rows of the board for takes that have a plan. */
export function rowsOf(takes: Take[], spots: Spot[], zoom: number, cell: Extent): Row[] {
  const best = finestOf(takes)
  if (!best?.plan) return []
  const scale = fineness(best.plan)
  const cellOf = (take: Take, spot: Spot, chain: string, mark: Mark): Cell => {
    const place = spot.places[take.id]
    const cut = place ? cutAround(take.plan!, place, scale, zoom, cell.width, cell.height) : null
    return { spot, cut, address: cut && cutAddress(take.id, chain, cut), mark }
  }
  const original = { take: null, cells: spots.map((spot) => cellOf(best, spot, best.plan!.plain_chain, '')) }
  const own = takes.map((take) => ({
    take,
    cells: spots.map((spot) => cellOf(take, spot, take.plan!.chain, spot.marks[take.id] ?? '')),
  }))
  return [original, ...own]
}

/** What of the board is seen. */
export interface Scrolled extends Extent {
  top: number
  left: number
}

/** What can be seen comes before what cannot, what is near a cell before what is far from it. */
export function wantedOf(rows: Row[], cell: Extent, seen: Scrolled, near: { row: number; column: number }) {
  return rows.flatMap((row, y) =>
    row.cells.flatMap(({ address }, x) => {
      if (!address) return []
      const [above, before] = [y * cell.height, x * cell.width]
      const visible =
        above < seen.top + seen.height &&
        above + cell.height > seen.top &&
        before < seen.left + seen.width &&
        before + cell.width > seen.left
      // The original is quick, and stands in for the others until they are there.
      const urgency = (visible ? 0 : 1000) + (row.take ? 100 : 0) + Math.hypot(y - near.row, x - near.column)
      return [{ address, urgency }]
    }),
  )
}
