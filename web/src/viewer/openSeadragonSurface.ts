import OpenSeadragon from 'openseadragon'

import { ImageSheet, type Image } from './imageSheet'
import { tileOf, type Layer } from './layer'
import { PartsInView } from './partsInView'
import type { Point, Request, Sheet, Surface, SurfaceEvents } from './surface'
import { frames, outdated } from './surroundings'
import { divisorOf, leastScale, levelWithin, sideAt } from './tileGrid'
import { TileQueue, type Job, type Want } from './tileQueue'

/** Wheels that send many small turns go one step at a time. */
const wheelPauseMilliseconds = 90
/** The longest that timers can wait: tiles that are of no use yet are not given up. */
const foreverMilliseconds = 2 ** 31 - 1

type TileJob = Job & {
  ajaxHeaders: Record<string, string>
  tile: OpenSeadragon.Tile & { tiledImage: Image; bounds: OpenSeadragon.Rect }
}
interface Positioned {
  position: OpenSeadragon.Point
}

const downloadTile = (
  OpenSeadragon.TileSource.prototype as unknown as {
    downloadTileStart: (this: OpenSeadragon.TileSource, job: TileJob) => void
  }
).downloadTileStart

/** After these something is to be drawn. */
// prettier-ignore
const happenings = [
  'add-item-failed', 'canvas-drag', 'canvas-enter', 'canvas-pinch', 'canvas-scroll', 'open', 'pan', 'resize', 'rotate',
  'tile-loaded', 'zoom',
] as const

/** A {@link Surface} in an element of the page: the one place, with what surrounds it, that knows the viewer library. */
export class OpenSeadragonSurface implements Surface {
  private readonly viewer: OpenSeadragon.Viewer
  private readonly sheets = new Map<Image, ImageSheet>()
  // Browsers open six connections to a server; saving a change must never wait for tiles.
  private readonly downloads: TileQueue
  private events: SurfaceEvents | null = null
  private lastWheel = 0
  /** The level at which each image is looked at, and when that was found. */
  private readonly levels = new Map<unknown, { level: number; found: number }>()
  private pointed: Point | null = null
  private size = { width: 0, height: 0 }
  private readonly parts: PartsInView

  constructor(
    private readonly holder: HTMLElement,
    navigator: boolean,
  ) {
    this.measure()
    this.downloads = new TileQueue(navigator ? 3 : 1)
    this.viewer = new OpenSeadragon.Viewer({
      element: holder,
      drawer: 'canvas',
      showNavigationControl: false,
      showNavigator: navigator,
      navigatorPosition: 'TOP_RIGHT',
      navigatorWidth: 150,
      navigatorHeight: 112,
      navigatorAutoFade: false,
      navigatorBackground: 'transparent',
      navigatorBorderColor: 'rgba(255, 255, 255, 0.6)',
      navigatorDisplayRegionColor: '#fff',
      loadTilesWithAjax: true,
      // As many as it likes: they queue in `downloads`, and may wait there.
      imageLoaderLimit: 0,
      maxTilesPerFrame: 256,
      tileRetryMax: 3,
      tileRetryDelay: 1500,
      timeout: foreverMilliseconds,
      animationTime: 0,
      visibilityRatio: 0.2,
      minZoomImageRatio: 0.01,
      maxZoomPixelRatio: 64,
      minPixelRatio: leastScale,
      smoothTileEdgesMinZoom: Infinity,
      // The level that is looked at first; coarser ones stand in where they are there, and are not asked for.
      immediateRender: true,
      preserveViewport: true,
      gestureSettingsMouse: { clickToZoom: false, dblClickToZoom: false, flickEnabled: false, scrollToZoom: false },
      gestureSettingsTouch: { clickToZoom: false, dblClickToZoom: false, flickEnabled: false },
      gestureSettingsPen: { clickToZoom: false, dblClickToZoom: false, flickEnabled: false },
    })
    this.parts = new PartsInView(this.viewer, this.sheets, this.downloads, {
      view: () => ({ bounds: this.viewer.viewport.getBounds(true), pixels: this.zoom * this.width * this.density }),
      near: () => this.pointed ?? this.middle,
      came: (sheet) => this.events?.tileCame(sheet),
      completeness: (sheet) => this.events?.completeness(sheet),
    })
  }

  /** Begin to tell what happens. */
  listen(events: SurfaceEvents) {
    this.events = events
    const { viewer } = this
    for (const happening of happenings) viewer.addHandler(happening, () => frames.wake())
    viewer.addHandler('tile-load-failed', ({ message }) => {
      // The viewer asks for one more tile in every frame, and what is outdated fails at once: that is no reason for the next.
      if (message !== outdated) frames.wake()
    })
    for (const happening of ['add-item', 'remove-item', 'item-index-change'] as const)
      viewer.world.addHandler(happening, () => frames.wake())
    const placeOf = (event: unknown) => this.toPlace((event as Positioned).position)
    // The bench has keys of its own.
    viewer.addHandler('canvas-key', (event) => (event.preventDefaultAction = true))
    viewer.addHandler('canvas-scroll', (event) => this.turned(event))
    viewer.addHandler('canvas-drag', () => {
      this.parts.dragging = true
      events.dragged()
    })
    viewer.addHandler('pan', events.panned)
    // It is told before the viewer has zoomed.
    viewer.addHandler('canvas-pinch', () => queueMicrotask(events.pinched))
    viewer.addHandler('canvas-drag-end', () => {
      this.parts.dragging = false
      events.dropped()
      this.parts.rest()
      this.viewer.forceRedraw()
    })
    viewer.addHandler('canvas-double-click', (event) => events.doubleClicked(placeOf(event)))
    viewer.addHandler('update-viewport', () => {
      events.drawing()
      queueMicrotask(() => {
        this.parts.see()
        this.downloads.next()
      })
    })
    viewer.addHandler('update-level', (event) => {
      const { tiledImage, level, currenttime } = event as unknown as { tiledImage: Image } & Record<string, number>
      this.looked(tiledImage, level!, currenttime!)
    })
    viewer.addHandler('tile-loaded', (event) => {
      const sheet = event.tiledImage && this.sheets.get(event.tiledImage)
      if (!sheet) return
      sheet.tiled = true
      sheet.arrange()
      events.tileCame(sheet)
    })
    // The viewer zooms once more after it has said so.
    viewer.addHandler('resize', () => requestAnimationFrame(events.resized))
    new OpenSeadragon.MouseTracker({
      element: viewer.canvas,
      moveHandler: (event) => events.moved((this.pointed = placeOf(event))),
      leaveHandler: () => events.moved((this.pointed = null)),
    })
  }

  /** The viewer goes through the levels of an image, from the one that is looked at to coarser ones. */
  private looked(image: unknown, level: number, now: number) {
    const known = this.levels.get(image)
    if (!known || known.found !== now || known.level < level) this.levels.set(image, { level, found: now })
  }

  private turned(event: unknown) {
    const { scroll, position } = event as { scroll: number } & Positioned
    ;(event as { preventDefault: boolean }).preventDefault = true
    if (performance.now() - this.lastWheel < wheelPauseMilliseconds) return
    this.lastWheel = performance.now()
    this.events!.wheel(scroll > 0 ? 1 : -1, this.toPlace(position))
  }

  destroy() {
    this.parts.clear()
    this.viewer.destroy()
  }

  get width() {
    return this.size.width
  }
  get height() {
    return this.size.height
  }
  get density() {
    return window.devicePixelRatio || 1
  }
  get zoom() {
    return this.viewer.viewport.getZoom(true)
  }
  get middle(): Point {
    return this.viewer.viewport.getCenter(true)
  }
  /** Whether the pane has the size that the viewer works with. */
  get known(): boolean {
    const size = this.viewer.viewport.getContainerSize()
    return size.x === this.width && size.y === this.height
  }

  /** The pane may have another size: asking it for every place of a frame would lay the page out hundreds of times. */
  measure() {
    this.size = { width: this.holder.clientWidth, height: this.holder.clientHeight }
  }

  lookAt(middle: Point, zoom: number) {
    this.viewer.viewport.zoomTo(zoom, undefined, true)
    this.viewer.viewport.panTo(new OpenSeadragon.Point(middle.x, middle.y), true)
  }
  /** The viewer's own way moves where it looks only with the next frame, and what is done until then takes that back. */
  zoomTo(zoom: number, about: Point = this.middle) {
    const { middle } = this
    const share = this.zoom / zoom
    this.lookAt({ x: about.x + (middle.x - about.x) * share, y: about.y + (middle.y - about.y) * share }, zoom)
  }
  panBy(x: number, y: number) {
    const { viewport } = this.viewer
    viewport.panBy(viewport.deltaPointsFromPixels(new OpenSeadragon.Point(x, y), true), true)
  }
  fit(height: number) {
    this.viewer.viewport.fitBounds(new OpenSeadragon.Rect(0, 0, 1, height), true)
  }
  rest() {
    this.parts.rest()
  }
  toPane(place: Point): Point {
    return this.viewer.viewport.pixelFromPoint(new OpenSeadragon.Point(place.x, place.y), true)
  }
  toPlace(position: Point): Point {
    return this.viewer.viewport.pointFromPixel(new OpenSeadragon.Point(position.x, position.y), true)
  }

  lay(layer: Layer, lasting: boolean, request: Request, laid: (sheet: Sheet) => void) {
    this.viewer.addTiledImage({
      tileSource: this.tileSource(layer, request) as unknown as OpenSeadragon.TileSource,
      ...layer.at,
      index: lasting ? 0 : this.viewer.world.getItemCount() + 1,
      opacity: lasting ? 1 : 0,
      preload: true,
      success: (event) => {
        const { item } = event as unknown as { item: Image }
        const sheet: ImageSheet = new ImageSheet(item, layer, lasting, {
          load: (part, came) => this.parts.load(sheet, part, request, came),
          drop: ({ image }) => this.viewer.world.removeItem(image),
        })
        this.sheets.set(item, sheet)
        if (lasting) sheet.coarse = true
        item.addHandler('fully-loaded-change', () => this.parts.tellCompleteness(sheet))
        laid(sheet)
        // What is in view of it is asked for before it is drawn for the first time, not after.
        if (this.sheets.has(item)) this.parts.see()
      },
    })
  }

  /**
   * Tiles in view of the level that is looked at; of these, what is below everything and quick to be had comes first, then
   * what is near the pointer. The small picture of the whole, a viewer of its own, waits until all of that is there.
   */
  private wantOf({ tile }: TileJob, look: number, moot: () => boolean): Want {
    const { tiledImage: image, level } = tile
    const sheet = this.sheets.get(image)
    return {
      look,
      timely: () => {
        if (moot()) return true
        if (!sheet) return this.parts.allThere
        return this.levels.get(image)?.level === level && this.inView(tile) && !this.parts.instead(sheet)
      },
      patience: () => {
        if (!sheet) return 0
        const { x, y } = tile.bounds.getCenter()
        const near = this.pointed ?? this.middle
        return sheet.lasting ? -1 : Math.hypot(x - near.x, y - near.y)
      },
    }
  }

  private inView({ bounds }: TileJob['tile']): boolean {
    return this.viewer.viewport.getBounds(true).intersection(bounds) !== null
  }

  private seen(layer: Layer, level: number): string {
    const { left, top, right, bottom } = this.parts.edges(layer, level)
    return [left, top, right, bottom].map(Math.round).join(' ')
  }

  /** Where the viewer gets a layer's tiles. */
  private tileSource(layer: Layer, request: Request) {
    // The viewer counts levels from the smallest up, the server from full size down.
    const top = levelWithin(layer.size, sideAt(1))
    const { downloads, sheets } = this
    const want = this.wantOf.bind(this)
    const seen = this.seen.bind(this)
    return {
      width: layer.size.width,
      height: layer.size.height,
      getTileWidth: (level: number) => sideAt(top - level),
      getTileHeight: (level: number) => sideAt(top - level),
      // Without overlap the viewer stretches tiles by a pixel to hide gaps, and pixels would no longer be true.
      tileOverlap: 1,
      minLevel: 0,
      maxLevel: top,
      getLevelScale: (level: number) => 1 / divisorOf(top - level),
      // Drawn straight onto the canvas: what the viewer takes for transparent goes through a second, smoothing one.
      hasTransparency: () => false,
      getTileUrl: (level: number, x: number, y: number) => tileOf(layer, top - level, x, y),
      downloadTileStart(this: OpenSeadragon.TileSource, job: TileJob) {
        const image = job.tile.tiledImage
        const ours = sheets.has(image)
        const moot = () => request.outdated() || (ours && !sheets.has(image))
        downloads.add(job, want(job, request.look(), moot), () => {
          if (!moot()) {
            const told = { 'X-Kite-View': request.header(), 'X-Kite-Seen': seen(layer, top - job.tile.level) }
            job.ajaxHeaders = { ...job.ajaxHeaders, ...told }
            return downloadTile.call(this, job)
          }
          sheets.get(image)?.givenUp.add(job.tile)
          job.tries = Infinity
          job.fail(outdated, null)
        })
      },
    }
  }

  remove(sheet: Sheet) {
    const { image, parts } = sheet as ImageSheet
    this.sheets.delete(image)
    parts.clear()
    this.levels.delete(image)
    // What waits for it is moot, and goes.
    queueMicrotask(() => this.downloads.next())
    this.viewer.world.removeItem(image)
  }
  smooth(on: boolean) {
    this.viewer.drawer.setImageSmoothingEnabled(on)
  }
  navigate(useful: boolean) {
    const { navigator } = this.viewer
    if (!navigator) return
    navigator.element.style.display = useful ? '' : 'none'
    navigator.viewport?.goHome(true)
  }
  redraw() {
    this.viewer.forceRedraw()
  }
}
