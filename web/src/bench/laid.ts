interface Size {
  width: number
  height: number
}

/**
 * The corners of a result as they meet where four copies of it do, from the upper left: its lower right one, lower left, upper
 * right and upper left; each at most so large, in pixels of the result.
 */
export function cornerCuts(size: Size, width: number, height: number) {
  const across = Math.max(1, Math.min(size.width, Math.round(width)))
  const along = Math.max(1, Math.min(size.height, Math.round(height)))
  const [right, bottom] = [size.width - across, size.height - along]
  const cut = (x: number, y: number) => ({ x, y, width: across, height: along })
  return [cut(right, bottom), cut(0, bottom), cut(right, 0), cut(0, 0)]
}
