import type OpenSeadragon from 'openseadragon'
import { beforeEach, expect, it, vi } from 'vitest'

import { ImageSheet, type Image } from './imageSheet'
import type { Layer } from './layer'
import { PartsInView } from './partsInView'
import { TileQueue } from './tileQueue'

vi.mock('openseadragon', () => ({ default: {} }))
vi.useFakeTimers()

/** A view of 400 × 300 px in the middle of a picture of 1000 × 800, at full size. */
const looked = { x: 0.3, y: 0.2, width: 0.4, height: 0.3 }
let bounds = { ...looked }
let asked: string[] = []

function sheet(name: string, lasting: boolean) {
  let opacity = lasting ? 1 : 0
  const image = {
    getPreload: () => true,
    getOpacity: () => opacity,
    setOpacity: (one: number) => (opacity = one),
    getClip: () => null,
    getFullyLoaded: () => false,
  } as unknown as Image
  const layer = { size: { width: 1000, height: 800 }, at: { x: 0, y: 0, width: 1 } } as Layer
  return new ImageSheet(image, layer, lasting, {
    load: () => {
      asked.push(name)
      return () => undefined
    },
    drop: () => undefined,
  })
}

function viewed() {
  const [under, top] = [sheet('under', true), sheet('top', false)]
  const sheets = new Map([under, top].map((one) => [one.image, one]))
  const parts = new PartsInView({} as OpenSeadragon.Viewer, sheets, new TileQueue(3), {
    view: () => ({ bounds: bounds as OpenSeadragon.Rect, pixels: 1000 }),
    near: () => ({ x: 0.5, y: 0.4 }),
    came: () => undefined,
    completeness: () => undefined,
  })
  return { under, top, parts }
}

beforeEach(() => {
  bounds = { ...looked }
  asked = []
})

it('asks for what is in view in one piece each, once the view rests, also of what stands in', () => {
  const { parts } = viewed()
  parts.see()
  expect(asked).toEqual([])
  vi.advanceTimersByTime(60)
  expect(asked).toEqual(['under', 'top'])
})

it('does not ask for what stands below once that is hidden', () => {
  const { under, parts } = viewed()
  under.opacity = 0
  parts.see()
  vi.advanceTimersByTime(60)
  expect(asked).toEqual(['top'])
})

it('asks for nothing slow while the picture is dragged, until it is held still', () => {
  const { under, top, parts } = viewed()
  parts.dragging = true
  parts.see()
  expect(parts.instead(top)).toBe(true)
  expect(parts.instead(under)).toBe(false)
  vi.advanceTimersByTime(200)
  bounds.x += 0.1
  parts.see()
  vi.advanceTimersByTime(200)
  expect(asked).toEqual([])
  vi.advanceTimersByTime(60)
  expect(asked).toContain('top')
})

it('asks at once where the view has come to stay', () => {
  const { parts } = viewed()
  parts.rest()
  expect(asked).toEqual(['under', 'top'])
})
