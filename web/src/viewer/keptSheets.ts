import { sameLayer, type Layer } from './layer'
import type { Sheet, Surface } from './surface'

/** A layer that has been asked for, and its sheet once it is laid down. */
export interface Laid<There = Sheet> {
  readonly layer: Layer
  sheet: There
  /** The load it belongs to. */
  load: number
}

/**
 * Results that were looked at and stay at hand, unseen: undone, switched off, another take and back. Each was all there for
 * what was `seen` then, and is so only for this.
 */
export class KeptSheets {
  private kept: { laid: Laid; seen: string }[] = []

  constructor(
    private readonly surface: Surface,
    private readonly most: number,
  ) {}

  /** What is seen no more stays, if it is all there; the oldest goes for it. */
  keep(laid: Laid, seen: string) {
    if (!laid.sheet.complete) return this.surface.remove(laid.sheet)
    if (laid.sheet.opacity !== 0) laid.sheet.opacity = 0
    laid.sheet.resting = true
    this.kept.push({ laid, seen })
    this.forget(this.most)
  }

  /** The layer as it was laid down before, if all that is seen now is there. */
  take(layer: Layer, seen: string): Laid | null {
    const place = this.kept.findIndex((one) => sameLayer(one.laid.layer, layer) && one.seen === seen)
    if (place < 0) return null
    const { laid } = this.kept.splice(place, 1)[0]!
    laid.sheet.resting = false
    return laid
  }

  forget(most = 0) {
    for (const { laid } of this.kept.splice(0, Math.max(0, this.kept.length - most))) this.surface.remove(laid.sheet)
  }
}
