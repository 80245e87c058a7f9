import type { Content, TileViewEvents, View } from './content'
import { KeptSheets, type Laid } from './keptSheets'
import { sameLayer, type Layer, type Size } from './layer'
import type { Point, Sheet, Surface, SurfaceEvents } from './surface'

/** Scales that the wheel and the keys go through. */
const scales = [0.0625, 0.125, 0.25, 0.5, 1, 2, 4, 8]
/** How many results that were looked at stay at hand: undone, switched off, another take and back. */
const mostKept = 4
const aspect = (size: Size) => (size.height / size.width).toFixed(2)

/**
 * What stands in the pane while a take changes:
 * `empty` nothing yet; `old` the take as it was, since nothing of the new one is there; `mixed` new tiles over old ones;
 * `whole` all of the new one that is in view.
 */
export type Presence = 'empty' | 'old' | 'mixed' | 'whole'

/**
 * A view of tiles: layers over each other, looked at from somewhere. Knows nothing of the page, so that it can be tried
 * without one; a {@link Surface} draws it.
 */
export class TileView {
  private content: Content | null = null
  private under: Laid | null = null
  private shown: Laid | null = null
  private older: Laid | null = null
  private readonly kept: KeptSheets
  /** Whether any tile of what is shown is there. */
  private begun = false
  /** Counts what was loaded; answers to earlier loads are dropped. */
  private generation = 0
  /** Counts the looks that were asked for. */
  private looks = 0
  /** Whether the whole picture is to be seen, whatever becomes of the pane's size. */
  private fitted = true
  private dragging = false
  /** The pane has another size than the surface knows; what that says of its view is wrong until it has noticed. */
  private resizing = false
  private smooth = true
  /** The last view that was asked for by others, or told to them. */
  private told: View | null = null

  constructor(
    private readonly surface: Surface,
    private readonly events: TileViewEvents,
    private readonly name: string,
  ) {
    this.kept = new KeptSheets(surface, mostKept)
  }

  get presence(): Presence {
    if (!this.shown || !this.begun) return this.older ? 'old' : 'empty'
    return this.shown.sheet.complete ? 'whole' : 'mixed'
  }

  // --- what is shown

  /** Show this; what stood there stays below until the new pixels are there. */
  show(content: Content) {
    const before = this.content
    this.content = content
    if (!before || !sameLayer(content.top, before.top) || !sameLayer(content.below, before.below)) this.load()
    else if (content.showing !== before.showing || content.divider !== before.divider) {
      this.arrange()
      this.surface.redraw()
    }
  }

  private load() {
    const { top, below } = this.content!
    const before = this.view()
    const looked = this.looks
    this.generation++
    const standing = this.shown ?? this.older
    const reshaped = !standing || aspect(standing.layer.size) !== aspect(top.size)
    const back = reshaped ? null : this.kept.take(top, this.seen)
    // From now on, not only once the new layer is there: what is seen meanwhile is not the take as it is.
    this.events.computing(!back)
    this.putAway(reshaped)
    if (!this.under) this.lay(below, true, (laid) => (this.under = laid))
    if (back) this.stand(back)
    else
      this.lay(top, false, (laid) => {
        this.shown = laid
        this.events.computing(true)
        // A view that was given before anything was loaded stands.
        if (this.fitted || (reshaped && before && this.looks === looked)) this.fit()
        this.arrange()
        this.tellWhere()
      })
  }

  /** What has pixels stays below until the new ones are there, or goes, if it has another shape. */
  private putAway(reshaped: boolean) {
    const standing = this.begun ? this.shown : (this.older ?? this.shown)
    for (const laid of [this.older, this.shown]) {
      if (laid && (reshaped || laid !== standing)) this.surface.remove(laid.sheet)
    }
    this.older = reshaped ? null : standing
    if (reshaped) this.kept.forget()
    if (this.under && (reshaped || !sameLayer(this.under.layer, this.content!.below))) {
      this.surface.remove(this.under.sheet)
      this.under = null
    }
    this.shown = null
    this.begun = false
  }

  private lay(layer: Layer, lasting: boolean, done: (laid: Laid) => void) {
    const laid: Laid<Sheet | null> = { layer, sheet: null, load: this.generation }
    const current = () => lasting || laid.load === this.generation
    const request = {
      header: () => `${this.name} ${this.generation}`,
      look: () => this.looks,
      outdated: () => !current(),
    }
    const mine = this.generation
    this.surface.lay(layer, lasting, request, (sheet) => {
      if (mine === this.generation) done(Object.assign(laid, { sheet }))
      else this.surface.remove(sheet)
    })
  }

  /** What is looked at. */
  private get seen(): string {
    const { middle, zoom, width, height } = this.surface
    return [middle.x, middle.y, zoom, width, height].join(' ')
  }

  /** It is there at once, in the place of what stood there. */
  private stand(laid: Laid) {
    laid.load = this.generation
    this.shown = laid
    this.begun = true
    this.replaced()
    this.arrange()
    this.tellWhere()
    this.surface.redraw()
  }

  private replaced() {
    if (this.older) this.kept.keep(this.older, this.seen)
    this.older = null
  }

  private arrange() {
    const { content, shown, under } = this
    if (!content || !shown) return
    // Nothing shines through what is transparent in a result that is all there.
    if (under) {
      const asked = content.showing !== 'top'
      setOpacity(under.sheet, !asked && shown.sheet.complete ? 0 : 1)
      // Else it only stands in until the new pixels are there.
      if (under.sheet.coarse === asked) under.sheet.coarse = !asked
    }
    for (const laid of [this.older, shown]) if (laid) this.arrangeSheet(laid.sheet, content)
    // At full size and above every pixel of what is looked at is shown as it is.
    const own = (this.scale * content.reference.width * content.top.at.width) / content.top.size.width
    const smooth = own < 0.999
    // Turning it on or off asks for a redraw, so only on a change.
    if (smooth !== this.smooth) this.surface.smooth((this.smooth = smooth))
  }

  private arrangeSheet(sheet: Sheet, { showing, divider, top }: Content) {
    // As long as there is nothing to draw of what is visible, the surface tries again in every frame.
    let opacity = showing === 'below' || (sheet === this.shown?.sheet && !this.begun) ? 0 : 1
    let hidden = 0
    if (showing === 'divider') {
      const edge = this.surface.toPlace({ x: divider * this.surface.width, y: 0 }).x
      const left = Math.round(((edge - top.at.x) / top.at.width) * sheet.size.width)
      if (left >= sheet.size.width) opacity = 0
      else hidden = Math.max(0, left)
    }
    setOpacity(sheet, opacity)
    if (sheet.hidden !== hidden) sheet.hidden = hidden
  }

  // --- where it looks

  /** Screen pixels per pixel of the reference. */
  get scale(): number {
    return (this.surface.zoom * this.surface.width * this.surface.density) / this.reference.width
  }
  private get reference(): Size {
    return this.content?.reference ?? { width: 1, height: 1 }
  }
  private get height(): number {
    return this.reference.height / this.reference.width
  }
  private zoomOf(scale: number): number {
    return (scale * this.reference.width) / (this.surface.width * this.surface.density)
  }

  view(): View | null {
    if (!this.shown) return null
    const { x, y } = this.surface.middle
    return { x, y, scale: this.scale }
  }

  /** Look where another view looks; the others are not told, or two views would answer each other for ever. */
  setView(view: View) {
    this.leave()
    // It stands even if the pane changes size before it has anything to show.
    this.told = view
    this.surface.lookAt({ x: view.x, y: view.y }, this.zoomOf(view.scale))
    this.snap()
    this.arrange()
    this.tellWhere()
  }

  fit() {
    this.fitted = true
    this.surface.fit(this.height)
    // Small pictures are not blown up just to fill the pane.
    if (this.scale > 1) this.setView({ x: 0.5, y: this.height / 2, scale: 1 })
    this.fitted = true
    this.arrange()
    this.tell()
  }

  /** To a scale about a place (the middle if none is given), to stay there or as one of many steps. */
  zoomTo(scale: number, about?: Point, stays = true) {
    this.leave()
    this.surface.zoomTo(this.zoomOf(scale), about)
    this.settle()
    if (stays) this.surface.rest()
  }

  stepZoom(way: 1 | -1, about?: Point) {
    const now = this.scale
    const next = way > 0 ? scales.find((one) => one > now * 1.001) : scales.findLast((one) => one < now * 0.999)
    if (next !== undefined) this.zoomTo(next, about, false)
  }

  panBy(x: number, y: number) {
    this.leave()
    this.surface.panBy(x, y)
    this.settle()
  }

  /** Look at a place of the reference, in its pixels. */
  lookAt(place: Point, scale: number) {
    this.setView({ x: place.x / this.reference.width, y: place.y / this.reference.width, scale })
    this.tell()
    this.surface.rest()
  }

  /** The pixel of the reference at a place, with fractions; null beside the picture. */
  pixelAt(place: Point): Point | null {
    const { width, height } = this.reference
    const pixel = { x: place.x * width, y: place.y * width }
    return pixel.x >= 0 && pixel.y >= 0 && pixel.x < width && pixel.y < height ? pixel : null
  }

  /** The pane has another size than the surface knows. */
  outgrown(yes: boolean) {
    this.resizing = yes
  }

  private leave() {
    this.fitted = false
    this.looks++
  }
  private settle() {
    this.snap()
    this.arrange()
    this.tell()
  }

  /** Put picture pixels exactly on screen pixels, so that none is drawn wider than its neighbour. */
  private snap() {
    if (this.scale < 0.999) return
    const origin = this.surface.toPane({ x: 0, y: 0 })
    const off = (value: number) => value - Math.round(value * this.surface.density) / this.surface.density
    const [x, y] = [off(origin.x), off(origin.y)]
    if (Math.abs(x) + Math.abs(y) > 1e-6) this.surface.panBy(x, y)
  }

  /** Somebody has moved this view: the others follow. */
  private tell() {
    const now = this.tellWhere()
    if (now) this.events.moved(now)
  }

  private tellWhere(): View | null {
    const now = this.resizing ? null : this.view()
    if (!now) return null
    this.told = now
    this.events.at(now)
    const first = this.surface.toPlace({ x: 0, y: 0 })
    const last = this.surface.toPlace({ x: this.surface.width, y: this.surface.height })
    const whole = first.x <= 0.01 && first.y <= 0.01 && last.x >= 0.99 && last.y >= 0.99 * this.height
    this.surface.navigate(!whole)
    return now
  }

  // --- what happens on the surface

  /** What the surface is to tell; `pinned` and `pointed` are told pixels of the reference. */
  handlers(pinned: (pixel: Point) => void, pointed: (pixel: Point | null) => void): SurfaceEvents {
    return {
      wheel: (way, about) => this.stepZoom(way, about),
      dragged: () => {
        this.leave()
        this.dragging = true
      },
      panned: () => {
        if (this.dragging) this.tell()
      },
      pinched: () => {
        this.leave()
        this.arrange()
        this.tell()
      },
      dropped: () => {
        this.dragging = false
        this.settle()
      },
      doubleClicked: (place) => {
        const pixel = this.pixelAt(place)
        if (pixel) pinned(pixel)
      },
      moved: (place) => pointed(place && this.pixelAt(place)),
      // However a pane changes size, it goes on looking at the same place at the same scale.
      resized: () => {
        this.resizing = false
        if (this.fitted || !this.told) this.fit()
        else this.setView(this.told)
      },
      drawing: () => this.arrange(),
      // What came is drawn next.
      tileCame: (sheet) => (this.begun ||= sheet === this.shown?.sheet),
      completeness: (sheet) => this.completed(sheet),
    }
  }

  private completed(sheet: Sheet) {
    // One that is only shown until the new pixels are there says nothing about those.
    if (sheet !== this.shown?.sheet) return
    this.events.computing(!sheet.complete)
    if (sheet.complete) this.replaced()
  }
}

function setOpacity(sheet: Sheet, opacity: number) {
  if (sheet.opacity !== opacity) sheet.opacity = opacity
}
