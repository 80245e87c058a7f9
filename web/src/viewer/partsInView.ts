import OpenSeadragon from 'openseadragon'

import type { DrawnPart, Image, ImageSheet } from './imageSheet'
import { partOf, type Layer } from './layer'
import { fetched, tileSourceOf } from './partSource'
import type { Point, Request } from './surface'
import { outdated } from './surroundings'
import { divisorOf, leastFullScale } from './tileGrid'
import type { Job, TileQueue, Want } from './tileQueue'
import type { Edges, Part } from './viewParts'

/**
 * Parts are asked for once the view has rested for so long, or has been held still: while it moves, each look would be computed
 * in vain, and what has begun keeps what comes after it waiting.
 */
const restMilliseconds = 60
const heldMilliseconds = 250

/** What is subtracted from the distance of a part, in pictures. */
const soon = 1000

/** What parts have to know of the surface they are drawn on, and what they tell it. */
interface Around {
  /** What is in view, in the surface's coordinates, and how many device pixels its unit takes. */
  view: () => { bounds: OpenSeadragon.Rect; pixels: number }
  /** What is looked at closest. */
  near: () => Point
  came: (sheet: ImageSheet) => void
  completeness: (sheet: ImageSheet) => void
}

/** The parts of all sheets of a surface: which are in view, fetched in their turn and drawn over the tiles. */
export class PartsInView {
  dragging = false
  /** Where the view was seen last, and since when. */
  private rested: { seen: string; since: number } = { seen: '', since: 0 }
  private resting: ReturnType<typeof setTimeout> | undefined
  /** What was last told of each sheet: whether it is complete. */
  private readonly complete = new WeakMap<ImageSheet, boolean>()

  constructor(
    private readonly viewer: OpenSeadragon.Viewer,
    private readonly sheets: ReadonlyMap<Image, ImageSheet>,
    private readonly downloads: TileQueue,
    private readonly around: Around,
  ) {}

  /** Whether nothing more is waited for of what is shown. */
  get allThere(): boolean {
    const sheets = [...this.sheets.values()].filter((sheet) => !sheet.lasting && !sheet.resting)
    // Of tiles the viewer finds out only with its next frame that others are in view now.
    return sheets.every((sheet) => (this.instead(sheet) ? sheet.covered : sheet.complete))
  }

  /** Look which parts are in view; ask for them once it rests. */
  see() {
    const seen = JSON.stringify(this.around.view().bounds)
    const now = performance.now()
    const moved = seen !== this.rested.seen
    if (moved) this.rested = { seen, since: now }
    for (const sheet of this.sheets.values()) {
      if (sheet.resting) continue
      const full = this.inFull(sheet)
      sheet.look(full ? this.edges(sheet.layer, 0) : null)
      if (!full && sheet.image.getFullyLoaded()) sheet.parts.clear()
      this.tellCompleteness(sheet)
    }
    clearTimeout(this.resting)
    const wait = this.rested.since + (this.dragging ? heldMilliseconds : restMilliseconds) - now
    // Where nothing moves, the next frame is not waited for.
    if (wait > 0) this.resting = setTimeout(() => this.loadAll(), wait)
    else this.loadAll()
  }

  /** Nothing moves any more: what is in view is asked for at once. */
  rest() {
    this.rested = { seen: JSON.stringify(this.around.view().bounds), since: -Infinity }
    this.see()
  }

  private loadAll() {
    for (const sheet of this.sheets.values()) {
      // What stands below is not asked for once something stands over it.
      if (sheet.resting || (sheet.lasting && !sheet.opacity) || !this.inFull(sheet)) continue
      const near = this.around.near()
      const across = sheet.size.width / sheet.layer.at.width
      sheet.load({ x: (near.x - sheet.layer.at.x) * across, y: (near.y - sheet.layer.at.y) * across })
    }
    this.downloads.next()
  }

  /** Whether a layer is looked at in full size, nothing reduced. */
  private inFull({ layer }: ImageSheet): boolean {
    return (this.around.view().pixels * layer.at.width) / layer.size.width > leastFullScale - 1e-9
  }

  tellCompleteness(sheet: ImageSheet) {
    const { complete } = sheet
    if (this.complete.get(sheet) === complete) return
    this.complete.set(sheet, complete)
    this.around.completeness(sheet)
  }

  /** Fetch a part in its turn and lay it over its layer's tiles. */
  load(sheet: ImageSheet, part: Part, request: Request, came: (drawn: DrawnPart | null) => void) {
    const stop = new AbortController()
    const job: Job = { tries: 0, finish: () => undefined, fail: () => came(null) }
    const { width, at } = { ...sheet.layer.size, ...sheet.layer }
    const across = width / at.width
    const middle = { x: at.x + (part.x + part.width / 2) / across, y: at.y + (part.y + part.height / 2) / across }
    const want: Want = {
      look: request.look(),
      urgent: !sheet.lasting,
      timely: () => true,
      patience: () => {
        const near = this.around.near()
        // Before any tiles, and before what stands in for it: what takes longest begins first.
        return Math.hypot(middle.x - near.x, middle.y - near.y) - (sheet.lasting ? soon / 2 : soon)
      },
    }
    this.downloads.add(job, want, () => {
      if (stop.signal.aborted || request.outdated()) return job.fail(outdated, null)
      void fetched(partOf(sheet.layer, part), stop.signal).then(
        (picture) => {
          job.finish(picture, null, 'image')
          this.drawPart(sheet, part, picture, { x: at.x + part.x / across, y: at.y + part.y / across, across }, came)
        },
        () => job.fail('failed', null),
      )
    })
    return () => stop.abort()
  }

  private drawPart(
    sheet: ImageSheet,
    part: Part,
    picture: HTMLImageElement,
    at: Point & { across: number },
    came: (drawn: DrawnPart | null) => void,
  ) {
    if (!this.sheets.has(sheet.image)) return came(null)
    this.viewer.addTiledImage({
      tileSource: tileSourceOf(picture, part) as unknown as OpenSeadragon.TileSource,
      x: at.x,
      y: at.y,
      width: part.width / at.across,
      index: this.viewer.world.getIndexOfItem(sheet.image) + 1,
      opacity: 0,
      preload: true,
      success: (event) => {
        const { item } = event as unknown as { item: Image }
        item.addOnceHandler('fully-loaded-change', () => {
          came({ part, image: item })
          sheet.arrange()
          this.around.came(sheet)
          this.tellCompleteness(sheet)
          this.viewer.forceRedraw()
        })
      },
    })
  }

  /** Whether what is in view of a layer comes in parts, not in tiles: those only come of what is quick, while it is dragged. */
  instead(sheet: ImageSheet): boolean {
    return this.inFull(sheet) && (sheet.covered || !(sheet.parts.failed || (sheet.lasting && this.dragging)))
  }

  /** What is in view, in pixels of a level of a layer. */
  edges(layer: Layer, level: number): Edges {
    const { x, y, width, height } = this.around.view().bounds
    const across = layer.size.width / layer.at.width / divisorOf(level)
    const [left, top] = [(x - layer.at.x) * across, (y - layer.at.y) * across]
    return { left, top, right: left + width * across, bottom: top + height * across }
  }

  clear() {
    clearTimeout(this.resting)
    for (const sheet of this.sheets.values()) sheet.parts.clear()
  }
}
