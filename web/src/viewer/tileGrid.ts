import { tileOf, type Layer, type Size } from './layer'
import type { View } from './content'

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

/** Addresses of the tiles of a layer that a view sees, the middle first, and of those within `beside` screen pixels around. */
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
  const addresses = (more: number) =>
    within(more)
      .sort((a, b) => far(a) - far(b))
      .map(({ x, y }) => tileOf(layer, halvings, x, y))
  const seen = addresses(0)
  const known = new Set(seen)
  return { seen, beside: addresses(beside).filter((address) => !known.has(address)) }
}
