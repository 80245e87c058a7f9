/** A tile on its way, as the viewer's loader knows it. */
export interface Job {
  tries: number
  finish: (data: unknown, request: unknown, dataType: string) => void
  fail: (message: string, request: unknown) => void
}

/** How much a tile is wanted; asked whenever there is room for one, since it changes while tiles wait. */
export interface Want {
  /** Which look at the picture asked for it. */
  look: number
  /** Whether it is of use for what is looked at now; if not, it waits until it is. */
  timely: () => boolean
  /** Those with less come first, among what the same look asked for. */
  patience: () => number
  /** It takes longest and is what is waited for: it begins although as many others as may are on their way. */
  urgent?: boolean
}

interface Waiting {
  job: Job
  want: Want
  download: () => void
}

/**
 * Downloads of tiles, a few at once: those of the latest look at the picture first, and of these the most urgent.
 *
 * The viewer has a queue, too, but draws everything anew in every frame for as long as anything waits in it.
 */
export class TileQueue {
  private waiting: Waiting[] = []
  private running = 0

  constructor(private readonly atOnce: number) {}

  add(job: Job, want: Want, download: () => void) {
    this.waiting.push({ job, want, download })
    this.next()
  }

  /** What is looked at has changed: see whether some are timely now. */
  next() {
    for (;;) {
      const full = this.running >= this.atOnce
      const timely = this.waiting.filter(({ want }) => (!full || want.urgent) && want.timely())
      if (!timely.length) return
      const first = timely.reduce((best, one) => (comesBefore(one.want, best.want) ? one : best))
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

function comesBefore(one: Want, other: Want): boolean {
  return one.look === other.look ? one.patience() < other.patience() : one.look > other.look
}
