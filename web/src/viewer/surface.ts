import type { Layer, Size } from './layer'

export interface Point {
  x: number
  y: number
}

/** A layer as it has been laid down on a surface. */
export interface Sheet {
  readonly size: Size
  /** Whether all its tiles that are in view are there. */
  readonly complete: boolean
  opacity: number
  /** How many of its columns, from the left, are not drawn. */
  hidden: number
  /** Whether it asks for no tiles, whatever is looked at. */
  resting: boolean
  /** Whether tiles of half the resolution do for it. */
  coarse: boolean
}

/** How the tiles of a layer are asked for. */
export interface Request {
  /** Sent along, so that the server knows which requests are moot. */
  header: () => string
  /** Which look at the picture asks; those of the latest are answered first. */
  look: () => number
  /** Once it is, nothing more is asked for: the server would refuse each tile, over and over. */
  outdated: () => boolean
}

/** What happens on a surface. Places are in its coordinates, in which the reference is 1 wide. */
export interface SurfaceEvents {
  wheel: (way: 1 | -1, about: Point) => void
  dragged: () => void
  panned: () => void
  /** By two fingers. */
  pinched: () => void
  dropped: () => void
  doubleClicked: (place: Point) => void
  moved: (place: Point | null) => void
  resized: () => void
  /** Before it is drawn anew. */
  drawing: () => void
  tileCame: (sheet: Sheet) => void
  completeness: (sheet: Sheet) => void
}

/**
 * What a {@link TileView} is drawn on: layers of tiles in a pane that is looked at from somewhere.
 *
 * Zoom 1 is the reference as wide as the pane; lengths on the pane are CSS pixels.
 */
export interface Surface {
  readonly width: number
  readonly height: number
  /** Device pixels per CSS pixel. */
  readonly density: number
  readonly zoom: number
  readonly middle: Point
  lookAt(middle: Point, zoom: number): void
  zoomTo(zoom: number, about?: Point): void
  panBy(x: number, y: number): void
  /** Look at all of a reference of this height. */
  fit(height: number): void
  /** Where it looks now is where it stays: what is there is asked for at once. */
  rest(): void
  /** A place on the pane, in CSS pixels, for one of the surface, and the other way round. */
  toPane(place: Point): Point
  toPlace(position: Point): Point
  /** Lay a layer down: below all others if it is `lasting`, unseen on top of them if it is not. */
  lay(layer: Layer, lasting: boolean, request: Request, laid: (sheet: Sheet) => void): void
  remove(sheet: Sheet): void
  /** Whether pixels are smoothed where they are drawn smaller than they are. */
  smooth(on: boolean): void
  /** Whether the small picture of the whole is of use. */
  navigate(useful: boolean): void
  redraw(): void
}
