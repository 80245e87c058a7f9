/** How long frames go on at full rate after something has happened, and how often one is made at rest, in milliseconds. */
const livelyMilliseconds = 100
const restMilliseconds = 120

interface Resting {
  timer: ReturnType<typeof setTimeout>
  frame: FrameRequestCallback
}

/**
 * Frames for whoever asks for the next one in every one: as often as the screen has them while something happens, seldom at
 * rest, where sixty looks a second whether there is anything to draw take a sixth of a processor from what computes it.
 */
export class Frames {
  private livelyUntil = 0
  private readonly resting = new Map<number, Resting>()
  private readonly running = new Map<number, number>()
  private last = 0

  /** Something happens: whoever rests goes on with the next frame. */
  wake() {
    this.livelyUntil = performance.now() + livelyMilliseconds
    for (const [id, { timer, frame }] of this.resting) {
      clearTimeout(timer)
      this.next(id, frame)
    }
    this.resting.clear()
  }

  /** As `requestAnimationFrame`. */
  request(frame: FrameRequestCallback): number {
    const id = ++this.last
    if (performance.now() < this.livelyUntil) this.next(id, frame)
    else {
      const timer = setTimeout(() => {
        this.resting.delete(id)
        // A frame of the browser is made only if this draws something: an empty one goes through three of its processes.
        frame(performance.now())
      }, restMilliseconds)
      this.resting.set(id, { timer, frame })
    }
    return id
  }

  /** As `cancelAnimationFrame`. */
  cancel(id: number) {
    clearTimeout(this.resting.get(id)?.timer)
    this.resting.delete(id)
    cancelAnimationFrame(this.running.get(id) ?? 0)
    this.running.delete(id)
  }

  private next(id: number, frame: FrameRequestCallback) {
    const handle = requestAnimationFrame((now) => {
      this.running.delete(id)
      frame(now)
    })
    this.running.set(id, handle)
  }
}
