/** A tile on its way, as the viewer's loader knows it. */
export interface Job {
  tries: number
  /** The coarsest level is 0. */
  tile: { level: number }
  finish: (data: unknown, request: unknown, dataType: string) => void
  fail: (message: string, request: unknown) => void
}

interface Waiting {
  job: Job
  /** Which look at the picture asked for it. */
  look: number
  download: () => void
}

/**
 * Downloads of tiles, a few at once: those of the latest look at the picture first, of these the coarsest.
 *
 * The viewer has a queue, too, but draws everything anew in every frame for as long as anything waits in it.
 */
export class TileQueue {
  private waiting: Waiting[] = []
  private running = 0

  constructor(private readonly atOnce: number) {}

  add(job: Job, look: number, download: () => void) {
    this.waiting.push({ job, look, download })
    this.next()
  }

  private next() {
    while (this.running < this.atOnce && this.waiting.length) {
      const first = this.waiting.reduce((best, one) =>
        (one.look - best.look || best.job.tile.level - one.job.tile.level) > 0 ? one : best,
      )
      this.waiting.splice(this.waiting.indexOf(first), 1)
      this.start(first)
    }
  }

  private start({ job, download }: Waiting) {
    let over = false
    const ended = () => {
      if (over) return
      over = true
      this.running--
      this.next()
    }
    const { finish, fail } = job
    job.finish = (...told) => {
      finish.apply(job, told)
      ended()
    }
    job.fail = (...told) => {
      fail.apply(job, told)
      ended()
    }
    this.running++
    download()
  }
}
