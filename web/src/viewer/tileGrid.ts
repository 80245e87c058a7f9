import type { View } from './content'
import { partOf, tileOf, type Layer, type Size } from './layer'
import { partsOf } from './viewParts'

/** Levels that the server knows. */
const deepest = 32

/** Pixels of full size, a side, that one of a level stands for: 1, 2, 3, 4, 6, 8, 12 …; as the server has it. */
export const divisorOf = (level: number) =>
  level < 1 ? 1 : level % 2 ? 2 ** ((level + 1) / 2) : 3 * 2 ** (level / 2 - 1)

/** Pixels a side of a level's tiles: small at full size, so that little is computed beside what is seen. */
export const sideAt = (level: number) => (level ? 512 : 256)

/**
 * Screen pixels per pixel of a tile are never less: looked at from afar, tiles are drawn an eighth larger than they are at
 * most, and few more pixels are computed than the screen shows.
 */
export const leastScale = 0.75

/** The same of what is exact: nothing is reduced that is drawn nearly as large as it is. */
export const leastFullScale = 0.6

/** The level at which a layer is looked at `scale` screen pixels per pixel of its own. */
export function levelAt(scale: number): number {
  if (scale > leastFullScale - 1e-9) return 0
  let level = 1
  while (level < deepest && scale * divisorOf(level) < leastScale - 1e-9) level++
  return level
}

/** The first level at which no side is longer than `longest`. */
export function levelWithin({ width, height }: Size, longest: number): number {
  let level = 0
  while (level < deepest && Math.max(width, height) > longest * divisorOf(level)) level++
  return level
}

/**
 * Addresses of what a view sees of a layer, the middle first, and of the tiles within `beside` screen pixels around: of tiles,
 * or at full size of the parts that are in view, as the viewer asks for them.
 */
export function tilesOfView(
  layer: Layer,
  view: View,
  reference: Size,
  pane: Size,
  beside: number,
): { seen: string[]; beside: string[] } {
  const across = layer.size.width / layer.at.width
  const scale = (view.scale * reference.width) / across
  const level = levelAt(scale)
  const side = sideAt(level) * divisorOf(level)
  const middle = { x: (view.x - layer.at.x) * across, y: (view.y - layer.at.y) * across }
  const range = (centre: number, length: number, most: number) => {
    const first = Math.max(0, Math.floor((centre - length / 2) / side))
    const end = Math.min(Math.ceil(most / side), Math.ceil((centre + length / 2) / side))
    return Array.from({ length: Math.max(0, end - first) }, (_, index) => first + index)
  }
  const within = (more: number) =>
    range(middle.x, (pane.width + 2 * more) / scale, layer.size.width).flatMap((x) =>
      range(middle.y, (pane.height + 2 * more) / scale, layer.size.height).map((y) => ({ x, y })),
    )
  const far = ({ x, y }: { x: number; y: number }) =>
    Math.hypot((x + 0.5) * side - middle.x, (y + 0.5) * side - middle.y)
  const tiles = (more: number) => within(more).sort((a, b) => far(a) - far(b))
  const address = ({ x, y }: { x: number; y: number }) => tileOf(layer, level, x, y)
  if (!level) {
    const [wide, high] = [pane.width / scale / 2, pane.height / scale / 2]
    const edges = { left: middle.x - wide, top: middle.y - high, right: middle.x + wide, bottom: middle.y + high }
    const whole = ({ x, y }: { x: number; y: number }) =>
      x * side >= edges.left && y * side >= edges.top && (x + 1) * side <= edges.right && (y + 1) * side <= edges.bottom
    return {
      seen: partsOf(layer, edges).map((part) => partOf(layer, part)),
      beside: beside
        ? tiles(beside)
            .filter((tile) => !whole(tile))
            .map(address)
        : [],
    }
  }
  const seen = tiles(0).map(address)
  const known = new Set(seen)
  return {
    seen,
    beside: tiles(beside)
      .map(address)
      .filter((one) => !known.has(one)),
  }
}
