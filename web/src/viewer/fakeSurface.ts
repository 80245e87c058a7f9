import type { Layer, Size } from './layer'
import type { Point, Request, Sheet, Surface } from './surface'

export class FakeSheet implements Sheet {
  complete = false
  opacity: number
  hidden = 0
  resting = false
  coarse = false
  constructor(
    readonly layer: Layer,
    readonly lasting: boolean,
    readonly request: Request,
  ) {
    this.opacity = lasting ? 1 : 0
  }
  get size(): Size {
    return this.layer.size
  }
}

/** A {@link Surface} without a page, for tests: layers are laid when a test says so. */
export class FakeSurface implements Surface {
  width = 800
  height = 600
  density = 1
  zoom = 1
  middle: Point = { x: 0.5, y: 0.375 }
  sheets: FakeSheet[] = []
  smoothed = true
  navigated: boolean | null = null
  redraws = 0
  rests = 0
  private waiting: (() => void)[] = []

  lay(layer: Layer, lasting: boolean, request: Request, laid: (sheet: Sheet) => void) {
    this.waiting.push(() => {
      const sheet = new FakeSheet(layer, lasting, request)
      if (lasting) this.sheets.unshift(sheet)
      else this.sheets.push(sheet)
      laid(sheet)
    })
  }
  /** Everything that was asked for is laid down. */
  arrive() {
    const waiting = this.waiting
    this.waiting = []
    for (const lay of waiting) lay()
  }
  remove(sheet: Sheet) {
    this.sheets = this.sheets.filter((one) => one !== sheet)
  }
  lookAt(middle: Point, zoom: number) {
    this.middle = middle
    this.zoom = zoom
  }
  zoomTo(zoom: number, about: Point = this.middle) {
    const share = this.zoom / zoom
    this.middle = { x: about.x + (this.middle.x - about.x) * share, y: about.y + (this.middle.y - about.y) * share }
    this.zoom = zoom
  }
  panBy(x: number, y: number) {
    const scale = this.zoom * this.width
    this.middle = { x: this.middle.x + x / scale, y: this.middle.y + y / scale }
  }
  fit(height: number) {
    this.middle = { x: 0.5, y: height / 2 }
    this.zoom = Math.min(1, this.height / this.width / height)
  }
  rest() {
    this.rests++
  }
  toPane(place: Point): Point {
    const scale = this.zoom * this.width
    return {
      x: this.width / 2 + (place.x - this.middle.x) * scale,
      y: this.height / 2 + (place.y - this.middle.y) * scale,
    }
  }
  toPlace(position: Point): Point {
    const scale = this.zoom * this.width
    return {
      x: this.middle.x + (position.x - this.width / 2) / scale,
      y: this.middle.y + (position.y - this.height / 2) / scale,
    }
  }
  smooth(on: boolean) {
    this.smoothed = on
  }
  navigate(useful: boolean) {
    this.navigated = useful
  }
  redraw() {
    this.redraws++
  }
}
