/** Fewest and most pixels a side, and milliseconds after which the next one is to be there: ten a second. */
const [smallest, largest, slowest] = [280, 640, 95]

/** How many pixels a side are asked for while a control is dragged: as many as come often enough to be followed. */
export class LiveSide {
  now = largest

  /** One was there after so long. */
  adapt(milliseconds: number) {
    const often = milliseconds > slowest ? 0.8 : milliseconds < slowest / 2 ? 1.25 : 1
    this.now = Math.round(Math.max(smallest, Math.min(largest, this.now * often)))
  }
}
