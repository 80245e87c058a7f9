import type { Layer } from './layer'

/** A rectangle of a layer at full size, in its pixels. */
export interface Part {
  readonly x: number
  readonly y: number
  readonly width: number
  readonly height: number
}

/** What is in view of a layer, in its pixels. */
export interface Edges {
  left: number
  top: number
  right: number
  bottom: number
}

/** Parts begin and end at multiples of this, as what the server keeps of slow steps does. */
const step = 16
/** Longest side of a part, in pixels: the server computes so much in one piece. */
const longest = 1536
/** Pixels that parts beside each other share, or their seam would show when they are drawn smaller. */
const shared = 2
/** How many parts that are in view no more stay where they are. */
const mostLeft = 4

/** The parts that cover what is in view of a layer: whole steps, few, of about the same size. */
export function partsOf({ size }: Layer, { left, top, right, bottom }: Edges): Part[] {
  const across = sides(left, right, size.width)
  return sides(top, bottom, size.height).flatMap(([y, height]) => across.map(([x, width]) => ({ x, y, width, height })))
}

/** Where the parts of one row begin, and how long they are. */
function sides(first: number, last: number, length: number): [number, number][] {
  // What rounding added is no reason for another column.
  const begin = Math.max(0, Math.floor((first + 0.01) / step) * step)
  const end = Math.min(length, Math.ceil((last - 0.01) / step) * step)
  if (end <= begin) return []
  const count = Math.ceil((end - begin) / longest)
  const each = Math.ceil((end - begin) / count / step) * step
  return Array.from({ length: count }, (_, index) => {
    const start = begin + index * each
    return [start, Math.min(each + (index < count - 1 ? shared : 0), end - start)]
  })
}

const contains = (outer: Part, inner: Part) =>
  outer.x <= inner.x &&
  outer.y <= inner.y &&
  outer.x + outer.width >= inner.x + inner.width &&
  outer.y + outer.height >= inner.y + inner.height

/** Loads parts and takes them away again. */
export interface PartLoader<Drawn> {
  /** `came` is told what is drawn of it now, or null if it cannot be had. The answer calls it off. */
  load(part: Part, came: (drawn: Drawn | null) => void): () => void
  drop(drawn: Drawn): void
}

interface Held<Drawn> {
  part: Part
  drawn: Drawn | null
  stop: () => void
}

/**
 * What is loaded of a layer at full size: exactly what is in view. Tiles that it sees half of would be computed whole,
 * twice as much in all.
 */
export class ViewParts<Drawn> {
  private held: Held<Drawn>[] = []
  private wanted: Part[] = []
  /** Whether some part could not be had, so that tiles have to do. */
  failed = false

  constructor(private readonly loader: PartLoader<Drawn>) {}

  /** All that is drawn, in view or not. */
  get drawn(): Drawn[] {
    return this.held.flatMap(({ drawn }) => (drawn ? [drawn] : []))
  }

  /** Whether all of these are drawn. */
  cover(parts: Part[]): boolean {
    return parts.length > 0 && parts.every((part) => this.held.some((one) => one.drawn && contains(one.part, part)))
  }

  /** These are in view, the most urgent first: what is missing is loaded, what is on its way and not among them is called off. */
  want(parts: Part[]) {
    if (parts.length === this.wanted.length && parts.every((part, index) => same(part, this.wanted[index]!))) return
    this.wanted = parts
    this.failed = false
    this.held = this.held.filter((one) => {
      const stays = one.drawn || parts.some((part) => contains(one.part, part))
      if (!stays) one.stop()
      return stays
    })
    for (const part of parts) if (!this.held.some((one) => contains(one.part, part))) this.begin(part)
    this.tidy()
  }

  private begin(part: Part) {
    const one: Held<Drawn> = { part, drawn: null, stop: () => undefined }
    this.held.push(one)
    one.stop = this.loader.load(part, (drawn) => {
      if (!this.held.includes(one)) {
        if (drawn) this.loader.drop(drawn)
        return
      }
      one.drawn = drawn
      if (!drawn) {
        this.failed = true
        this.held = this.held.filter((other) => other !== one)
      }
      this.tidy()
    })
  }

  /** Once all of the view is there, most of what is not in it goes. */
  private tidy() {
    if (!this.cover(this.wanted)) return
    const left = this.held.filter((one) => !this.wanted.some((part) => contains(one.part, part)))
    const gone = left.slice(0, Math.max(0, left.length - mostLeft))
    this.held = this.held.filter((one) => !gone.includes(one))
    for (const { drawn } of gone) if (drawn) this.loader.drop(drawn)
  }

  clear() {
    for (const { drawn, stop } of this.held.splice(0)) {
      if (drawn) this.loader.drop(drawn)
      else stop()
    }
    this.wanted = []
    this.failed = false
  }
}

const same = (one: Part, other: Part) =>
  one.x === other.x && one.y === other.y && one.width === other.width && one.height === other.height
