/** Whether an address was fetched; false if the server had something better to do. */
export type FetchAhead = (address: string, signal: AbortSignal) => Promise<boolean>

const mostRemembered = 2000

/**
 * Fetches what will probably be looked at next, one thing at a time and only while everything is at rest.
 *
 * Several parts of a page may propose addresses; those of lower order come first. Whatever is proposed anew, by anybody,
 * begins after a moment of rest.
 */
export class Ahead {
  private readonly proposals = new Map<number, string[]>()
  private readonly fetched = new Set<string>()
  private timer: ReturnType<typeof setTimeout> | undefined
  private running: { address: string; stop: AbortController } | null = null

  constructor(
    private readonly fetchOne: FetchAhead,
    private readonly patience: number,
  ) {}

  /** Replaces what was proposed under this order; nothing, if somebody waits for something. */
  propose(order: number, addresses: string[]) {
    this.proposals.set(order, addresses)
    if (this.running && !this.wanted().includes(this.running.address)) this.running.stop.abort()
    this.later()
  }

  private wanted(): string[] {
    return [...this.proposals].sort(([a], [b]) => a - b).flatMap(([, addresses]) => addresses)
  }

  private later() {
    clearTimeout(this.timer)
    this.timer = setTimeout(() => void this.next(), this.patience)
  }

  private async next() {
    if (this.running) return
    const address = this.wanted().find((one) => !this.fetched.has(one))
    if (!address) return
    const stop = new AbortController()
    this.running = { address, stop }
    const done = await this.fetchOne(address, stop.signal).catch(() => false)
    this.running = null
    if (done) this.remember(address)
    // One that gave way is tried again later.
    if (done) void this.next()
    else this.later()
  }

  private remember(address: string) {
    this.fetched.add(address)
    for (const oldest of this.fetched) {
      if (this.fetched.size <= mostRemembered) break
      this.fetched.delete(oldest)
    }
  }
}
