import OpenSeadragon from 'openseadragon'

import type { Layer, Size } from './layer'
import type { Sheet } from './surface'
import { leastScale } from './tileGrid'
import { partsOf, type Edges, type Part, type PartLoader, ViewParts } from './viewParts'

export type Image = OpenSeadragon.TiledImage

/** A part of a layer as it is drawn: an image of its own. */
export interface DrawnPart {
  part: Part
  image: Image
}

/** A layer as the viewer library has it: an image of tiles, and over it, at full size, the parts that are in view. */
export class ImageSheet implements Sheet {
  /** What is asked for at full size in the place of tiles. */
  readonly parts: ViewParts<DrawnPart>
  /** Whether any tile is there to be drawn. */
  tiled = false
  /** Tiles that were not fetched since nobody waited for them: the viewer takes them not to exist, until the layer is back. */
  readonly givenUp = new Set<OpenSeadragon.Tile>()
  private shown: number
  private cut = 0
  /** What is in view at full size, if full size is what is looked at. */
  private view: Part[] = []

  constructor(
    readonly image: Image,
    readonly layer: Layer,
    readonly lasting: boolean,
    loader: PartLoader<DrawnPart>,
  ) {
    this.parts = new ViewParts(loader)
    this.shown = lasting ? 1 : 0
  }

  get size(): Size {
    return this.layer.size
  }
  get complete() {
    return this.image.getFullyLoaded() || this.covered
  }
  /** Whether all that is in view is drawn of parts. */
  get covered(): boolean {
    return this.parts.cover(this.view)
  }

  get opacity() {
    return this.shown
  }
  set opacity(opacity: number) {
    this.shown = opacity
    this.arrange()
  }
  get hidden() {
    return this.cut
  }
  set hidden(columns: number) {
    this.cut = columns
    this.arrange()
  }
  get resting() {
    return !this.image.getPreload()
  }
  set resting(still: boolean) {
    this.image.setPreload(!still)
    if (still) return
    for (const tile of this.givenUp) tile.exists = true
    this.givenUp.clear()
  }

  get coarse() {
    return this.least.minPixelRatio > leastScale
  }
  set coarse(yes: boolean) {
    this.least.minPixelRatio = yes ? 2 * leastScale : leastScale
  }
  /** What the viewer does not tell types of. */
  private get least() {
    return this.image as unknown as { minPixelRatio: number }
  }

  /** Draw all of it as it is to be drawn. */
  arrange() {
    // As long as there is nothing to draw of what is visible, the viewer tries again in every frame.
    const tiles = this.lasting || this.tiled ? this.shown : 0
    if (this.image.getOpacity() !== tiles) this.image.setOpacity(tiles)
    clip(this.image, this.cut, this.size)
    for (const { part, image } of this.parts.drawn) {
      const hidden = Math.max(0, this.cut - part.x)
      const opacity = hidden < part.width ? this.shown : 0
      if (image.getOpacity() !== opacity) image.setOpacity(opacity)
      if (opacity) clip(image, hidden, part)
    }
  }

  /** What is in view, if it is looked at in full size; null if not. */
  look(edges: Edges | null) {
    this.view = edges ? partsOf(this.layer, edges) : []
  }

  /** Load what is in view, what is near a place (in its pixels) first. */
  load(near: { x: number; y: number }) {
    const far = ({ x, y, width, height }: Part) => Math.hypot(x + width / 2 - near.x, y + height / 2 - near.y)
    this.parts.want([...this.view].sort((a, b) => far(a) - far(b)))
  }
}

/** Leave out so many columns from the left. */
function clip(image: Image, columns: number, { width, height }: Size) {
  if ((image.getClip()?.x ?? 0) === columns) return
  image.setClip(columns > 0 ? new OpenSeadragon.Rect(columns, 0, width - columns, height) : null)
}
