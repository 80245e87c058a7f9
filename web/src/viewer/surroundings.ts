import OpenSeadragon from 'openseadragon'

import { Frames } from './frames'

/** The frames of all viewers: few at rest. */
export const frames = new Frames()
/** What is said of a tile that nobody waits for any more. */
export const outdated = 'outdated'

/** What the viewer asks for its next frame by, at each of them, and what it tells faults to. */
const viewing = OpenSeadragon as unknown as {
  requestAnimationFrame: (frame: FrameRequestCallback) => number
  cancelAnimationFrame: (id: number) => void
  console: Console
}
viewing.requestAnimationFrame = (frame) => frames.request(frame)
viewing.cancelAnimationFrame = (id) => frames.cancel(id)
// That is no fault, happens a dozen times a view, and telling of it costs more than drawing one.
viewing.console = Object.assign(Object.create(console) as Console, {
  error: (...told: unknown[]) => told.includes(outdated) || console.error(...told),
})
