import type { View } from './content'
import { partOf, tileOf, type Layer, type Size } from './layer'
import { partsOf } from './viewParts'

/** Halvings that the server knows. */
const deepest = 16

/** Pixels a side of tiles halved so many times: small at full size, so that little is computed beside what is seen. */
export const sideAt = (halvings: number) => (halvings ? 512 : 256)

/**
 * Screen pixels per pixel of a tile are never less: looked at from afar, tiles are drawn a fifth larger than they are at most,
 * and at half the size there are not four times as many as the screen shows.
 */
export const leastScale = 0.6

/** How many times a layer is halved that is looked at `scale` screen pixels per pixel of its own. */
export const halvingsAt = (scale: number) =>
  Math.max(0, Math.min(deepest, Math.ceil(Math.log2(leastScale / scale) - 1e-9)))

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
  const halvings = halvingsAt(scale)
  const side = sideAt(halvings) * 2 ** halvings
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
  const address = ({ x, y }: { x: number; y: number }) => tileOf(layer, halvings, x, y)
  if (!halvings) {
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
