import type { Layer, Size } from './layer'

/** Where a view looks: its middle, the reference being 1 wide, and screen pixels per pixel of the reference. */
export interface View {
  x: number
  y: number
  scale: number
}
export type Showing = 'top' | 'divider' | 'below'

/** What a view shows. */
export interface Content {
  top: Layer
  /** What shows through where the top one does not; left of the divider. */
  below: Layer
  /** What scales and places are told in: the pixels of the leading take's result, whatever this pane shows. */
  reference: Size
  showing: Showing
  /** As a share of the pane's width. */
  divider: number
}

export interface TileViewEvents {
  /** Somebody has moved this view. */
  moved: (view: View) => void
  /** Where it looks now, whoever moved it. */
  at: (view: View) => void
  computing: (busy: boolean) => void
}
