import type { Take } from '../takes/queries'
import { cutAddress, cutAround, finenessOf, type Cut } from './cell'
import type { Mark, Spot } from './useSpots'

export interface Cell {
  spot: Spot
  cut: Cut | null
  address: string | null
  mark: Mark
}
/** A take as a row of the board: one of the picture itself, or of another picture of the same. */
export interface RowTake {
  take: Take
  /** The name of the other picture. */
  from?: string
  /** Pixels of that picture's source along one of this one's. */
  scale: number
}
/** A take, or at the top the original plainly enlarged, in every spot. */
export interface Row {
  take: Take | null
  from?: string
  cells: Cell[]
}
export interface Extent {
  width: number
  height: number
}

export const rowName = (row: Row | undefined) =>
  row?.take ? (row.from ? `${row.take.name} of ${row.from}` : row.take.name) : 'original'

const seenOf = ({ take, scale }: RowTake) => ({ size: take.plan!.size, fineness: finenessOf(take.plan!) * scale })

/** The take whose result is finest: what the zoom is told in. */
export function finestOf(takes: RowTake[]): RowTake | undefined {
  return takes.reduce<RowTake | undefined>(
    (best, one) => (!best || seenOf(one).fineness > seenOf(best).fineness ? one : best),
    undefined,
  )
}
export const finestFineness = (takes: RowTake[]) => {
  const best = finestOf(takes)
  return best ? seenOf(best).fineness : 1
}

/** The rows of the board for takes that have a plan: the original as the finest of the picture's own has it, then each. */
export function rowsOf(takes: RowTake[], spots: Spot[], zoom: number, cell: Extent): Row[] {
  const own = finestOf(takes.filter(({ from }) => !from))
  if (!own) return []
  const finest = finestFineness(takes)
  const cellOf = (one: RowTake, spot: Spot, chain: string, mark: Mark): Cell => {
    const place = spot.places[one.take.id]
    const cut = place ? cutAround(seenOf(one), place, finest, zoom, cell.width, cell.height) : null
    return { spot, cut, address: cut && cutAddress(one.take.id, chain, cut), mark }
  }
  const original = { take: null, cells: spots.map((spot) => cellOf(own, spot, own.take.plan!.plain_chain, '')) }
  const each = takes.map((one) => ({
    take: one.take,
    from: one.from,
    cells: spots.map((spot) => cellOf(one, spot, one.take.plan!.chain, spot.marks[one.take.id] ?? '')),
  }))
  return [original, ...each]
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
