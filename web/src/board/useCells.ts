import { onScopeDispose, reactive, watch } from 'vue'

/** A picture a cell wants; the lower its urgency's number, the sooner it is fetched. */
export interface Wanted {
  address: string
  urgency: number
}
export interface CellState {
  state: 'waiting' | 'computing' | 'there' | 'failed'
  source?: string
  message?: string
}

const atOnce = 2
const kept = 600

/** What has been computed is shown again at once, on every board. */
const pictures = new Map<string, string>()

function keep(address: string, source: string) {
  pictures.set(address, source)
  for (const [oldest, url] of pictures) {
    if (pictures.size <= kept) break
    pictures.delete(oldest)
    URL.revokeObjectURL(url)
  }
}

/**
 * Pictures of cells by their address, fetched a few at a time, the most urgent first. What is no longer wanted is
 * called off.
 */
export function useCells(wanted: () => Wanted[]) {
  const cells = reactive(new Map<string, CellState>())
  const running = new Map<string, AbortController>()

  function next() {
    const waiting = wanted()
      .filter(({ address }) => cells.get(address)?.state === 'waiting')
      .sort((a, b) => a.urgency - b.urgency)
    for (const { address } of waiting.slice(0, Math.max(0, atOnce - running.size))) void fetchOne(address)
  }

  async function fetchOne(address: string) {
    const stop = new AbortController()
    running.set(address, stop)
    cells.set(address, { state: 'computing' })
    try {
      const response = await fetch(address, { signal: stop.signal })
      if (!response.ok) throw new Error(((await response.json()) as { message?: string }).message ?? 'not computed')
      const source = URL.createObjectURL(await response.blob())
      keep(address, source)
      cells.set(address, { state: 'there', source })
    } catch (fault) {
      if (stop.signal.aborted) cells.delete(address)
      else cells.set(address, { state: 'failed', message: fault instanceof Error ? fault.message : String(fault) })
    } finally {
      running.delete(address)
      next()
    }
  }

  watch(
    wanted,
    (now) => {
      const addresses = new Set(now.map((one) => one.address))
      for (const [address, stop] of running) if (!addresses.has(address)) stop.abort()
      for (const address of [...cells.keys()]) if (!addresses.has(address)) cells.delete(address)
      for (const address of addresses) {
        const source = pictures.get(address)
        const known = cells.get(address)
        if (source && known?.state !== 'there') cells.set(address, { state: 'there', source })
        else if (!known) cells.set(address, { state: 'waiting' })
      }
      next()
    },
    { immediate: true },
  )
  onScopeDispose(() => running.forEach((stop) => stop.abort()))

  /** Ask again for what failed. */
  function again(address: string) {
    cells.set(address, { state: 'waiting' })
    next()
  }
  return { cells, again }
}
