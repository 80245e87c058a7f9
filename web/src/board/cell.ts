import type { Plan } from '../viewer/layer'

interface Place {
  x: number
  y: number
}

/** The part of a result that a cell shows, and how large one of its pixels is drawn. */
export interface Cut {
  x: number
  y: number
  width: number
  height: number
  /** CSS pixels per pixel of the result. */
  magnified: number
}

/** Screen pixels per pixel of the finest result, for cells to be looked at. */
export const zooms = [0.25, 0.5, 1, 2, 4]

/** A whole eye, a word, a corner: what a cell shows of the source, in its pixels, for people to know what they look at. */
const recognisable = 48

/** Pixels of the framed source across a cell `width` CSS px wide. */
export const sourceAcross = (width: number, zoom: number, finest: number) =>
  (width * (window.devicePixelRatio || 1)) / (zoom * finest)

/** The largest zoom at which a cell shows enough to be recognised. */
export const startingZoom = (width: number, finest: number) =>
  zooms.findLast((zoom) => sourceAcross(width, zoom, finest) >= recognisable) ?? zooms[0]!

/** How large cells are so that `columns` × `rows` of them fill `room`, within bounds: the fewer, the larger. */
export function cellSize(room: { width: number; height: number }, columns: number, rows: number, least: number) {
  const shape = 0.68
  const fitting = Math.min(room.width / Math.max(1, columns), room.height / Math.max(1, rows) / shape)
  const width = Math.round(Math.max(least, Math.min(2.2 * least, fitting)))
  return { width, height: Math.round(width * shape) }
}

/** Pixels of a result per pixel of the framed source. */
export const finenessOf = (plan: Plan) => plan.size.width / plan.framed.width

/** A result: its size, and how many of its pixels lie along one of the source whose board it stands on. */
export interface Seen {
  size: Plan['size']
  fineness: number
}

/**
 * The cut of a result around a place of it, `width` × `height` CSS px large at `zoom` screen pixels per pixel of
 * the finest one: every take is seen at the same printed size, whatever its factor.
 */
export function cutAround(
  { size, fineness }: Seen,
  place: Place,
  finest: number,
  zoom: number,
  width: number,
  height: number,
): Cut {
  const density = window.devicePixelRatio || 1
  const magnified = (zoom * finest) / fineness / density
  const across = Math.min(size.width, Math.max(1, Math.round(width / magnified)))
  const along = Math.min(size.height, Math.max(1, Math.round(height / magnified)))
  const inside = (start: number, length: number, most: number) =>
    Math.max(0, Math.min(Math.round(start), most - length))
  return {
    x: inside(place.x - across / 2, across, size.width),
    y: inside(place.y - along / 2, along, size.height),
    width: across,
    height: along,
    magnified,
  }
}

export function cutAddress(takeId: string, chain: string, cut: Cut): string {
  return `/api/takes/${takeId}/cuts/${chain}/${cut.x}_${cut.y}_${cut.width}_${cut.height}.png`
}
