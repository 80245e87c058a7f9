import type OpenSeadragon from 'openseadragon'
import { expect, it, vi } from 'vitest'

import { ImageSheet, type Image } from './imageSheet'
import type { Layer } from './layer'

vi.mock('openseadragon', () => ({ default: {} }))

function sheet() {
  let preload = true
  const image = { getPreload: () => preload, setPreload: (on: boolean) => (preload = on) } as unknown as Image
  const layer = { size: { width: 100, height: 80 }, at: { x: 0, y: 0, width: 1 } } as Layer
  return new ImageSheet(image, layer, false, { load: () => () => undefined, drop: () => undefined })
}

it('asks again for tiles that nobody waited for, once it is back', () => {
  const put = sheet()
  const tile = { exists: true } as OpenSeadragon.Tile
  put.resting = true
  // As the viewer takes a tile that could not be had.
  put.givenUp.add(tile)
  tile.exists = false
  put.resting = true
  expect(tile.exists).toBe(false)
  put.resting = false
  expect(put.resting).toBe(false)
  expect(tile.exists).toBe(true)
  expect(put.givenUp.size).toBe(0)
})
