import { beforeEach, expect, test } from 'vitest'

import { FakeSurface } from './fakeSurface'
import type { Layer, Size } from './layer'
import type { SurfaceEvents } from './surface'
import type { Content, View } from './content'
import { TileView } from './tileView'

const size = { width: 4000, height: 3000 }
const layer = (name: string, own: Size = size): Layer => ({
  tiles: name,
  cuts: name,
  query: '',
  size: own,
  at: { x: 0, y: 0, width: 1 },
})
const content = (top: string, more: Partial<Content> = {}): Content => ({
  top: layer(top),
  below: layer('original', { width: 1000, height: 750 }),
  reference: size,
  showing: 'top',
  divider: 0.5,
  ...more,
})

let surface: FakeSurface
let view: TileView
let events: SurfaceEvents
let moved: View[]
let busy: boolean[]
let pinned: unknown[]

beforeEach(() => {
  surface = new FakeSurface()
  moved = []
  busy = []
  pinned = []
  view = new TileView(
    surface,
    { moved: (now) => moved.push(now), at: () => undefined, computing: (now) => busy.push(now) },
    'pane',
  )
  events = view.handlers(
    (pixel) => pinned.push(pixel),
    () => undefined,
  )
})
const names = () => surface.sheets.map((sheet) => sheet.layer.tiles)
const sheetOf = (name: string) => surface.sheets.find((sheet) => sheet.layer.tiles === name)!
/** Show it and let all of it arrive. */
function showWhole(shown: Content) {
  view.show(shown)
  surface.arrive()
  const sheet = sheetOf(shown.top.tiles)
  events.tileCame(sheet)
  sheet.complete = true
  events.completeness(sheet)
  events.drawing()
}

test('begins with nothing, and fits the picture once it is there', () => {
  expect(view.presence).toBe('empty')
  expect(view.view()).toBeNull()
  view.show(content('a'))
  surface.arrive()
  expect(names()).toEqual(['original', 'a'])
  expect(view.view()).toEqual({ x: 0.5, y: 0.375, scale: 0.2 })
})

test('nothing of a result is drawn before any of it is there, and nothing shines through once all is', () => {
  view.show(content('a'))
  surface.arrive()
  events.drawing()
  expect([sheetOf('original').opacity, sheetOf('a').opacity]).toEqual([1, 0])
  events.tileCame(sheetOf('a'))
  events.drawing()
  expect(view.presence).toBe('mixed')
  expect([sheetOf('original').opacity, sheetOf('a').opacity]).toEqual([1, 1])
  sheetOf('a').complete = true
  events.completeness(sheetOf('a'))
  events.drawing()
  expect(view.presence).toBe('whole')
  expect(sheetOf('original').opacity).toBe(0)
  expect(busy.at(-1)).toBe(false)
})

test('the take as it was stays until the changed one is all there', () => {
  showWhole(content('a'))
  view.show(content('b'))
  expect([busy.at(-1), view.presence]).toEqual([true, 'old'])
  surface.arrive()
  expect(names()).toEqual(['original', 'a', 'b'])
  expect([sheetOf('a').opacity, sheetOf('b').opacity]).toEqual([1, 0])
  events.completeness(sheetOf('a'))
  expect(busy.at(-1)).toBe(true)
  events.tileCame(sheetOf('b'))
  sheetOf('b').complete = true
  events.completeness(sheetOf('b'))
  expect(names(), 'the take as it was stays at hand, unseen').toEqual(['original', 'a', 'b'])
  expect([sheetOf('a').opacity, sheetOf('a').resting]).toEqual([0, true])
})

test('what was there comes back at once: undone, switched back, another take and back', () => {
  showWhole(content('a'))
  showWhole(content('b'))
  busy.length = 0
  view.show(content('a'))
  expect([view.presence, busy]).toEqual(['whole', [false]])
  expect([sheetOf('a').opacity, sheetOf('a').resting]).toEqual([1, false])
  expect([sheetOf('b').opacity, sheetOf('b').resting]).toEqual([0, true])
  const { request } = sheetOf('a')
  expect([request.outdated(), request.header()]).toEqual([false, 'pane 3'])
  view.show(content('b'))
  expect([view.presence, sheetOf('a').opacity, sheetOf('b').opacity]).toEqual(['whole', 0, 1])
  expect(names()).toHaveLength(3)
})

test('what was there elsewhere, or not all there, is asked for anew', () => {
  showWhole(content('a'))
  showWhole(content('b'))
  view.zoomTo(1)
  view.show(content('a'))
  expect(view.presence).toBe('old')
  surface.arrive()
  expect(names().filter((name) => name === 'a')).toHaveLength(2)
  events.tileCame(sheetOf('a'))
  view.show(content('c'))
  surface.arrive()
  view.show(content('a'))
  expect(view.presence).toBe('old')
})

test('a few results stay at hand, not all', () => {
  for (const name of 'abcdefgh') showWhole(content(name))
  expect(names()).toEqual(['original', 'd', 'e', 'f', 'g', 'h'])
  const turned = { width: 3000, height: 4000 }
  const below = layer('original, turned', { width: 750, height: 1000 })
  view.show(content('i', { top: layer('i', turned), below, reference: turned }))
  expect(names()).toEqual([])
})

test('what was asked for before the last change is dropped when it comes, and asks for no more tiles', () => {
  showWhole(content('a'))
  view.show(content('b'))
  view.show(content('c'))
  surface.arrive()
  expect(names()).toEqual(['original', 'a', 'c'])
  const { request } = sheetOf('c')
  expect([request.outdated(), request.header()]).toEqual([false, 'pane 3'])
  view.show(content('d'))
  expect(request.outdated()).toBe(true)
  expect(names(), 'what has pixels stays, what has none goes').toEqual(['original', 'a'])
  expect(sheetOf('original').request.outdated()).toBe(false)
})

test('a result of another shape takes the place of the old one at once and is fitted', () => {
  showWhole(content('a'))
  view.zoomTo(2)
  const turned = { width: 3000, height: 4000 }
  const below = layer('original, turned', { width: 750, height: 1000 })
  view.show(content('b', { top: layer('b', turned), below, reference: turned }))
  expect(names()).toEqual([])
  surface.arrive()
  expect(names()).toEqual(['original, turned', 'b'])
  expect(view.view()!.y).toBeCloseTo(2 / 3)
})

test('a change of the settings leaves the view where it is', () => {
  showWhole(content('a'))
  view.lookAt({ x: 1000, y: 600 }, 2)
  const before = view.view()
  showWhole(content('b'))
  expect(view.view()).toEqual(before)
})

test('small pictures are not blown up to fill the pane', () => {
  const small = { width: 200, height: 150 }
  view.show(content('a', { top: layer('a', small), below: layer('original', small), reference: small }))
  surface.arrive()
  expect(view.scale).toBeCloseTo(1)
})

test('from full size on pixels are shown as they are, and lie on whole screen pixels', () => {
  showWhole(content('a'))
  expect(surface.smoothed).toBe(true)
  view.lookAt({ x: 1000.3, y: 600.7 }, 1)
  expect(surface.smoothed).toBe(false)
  const origin = surface.toPane({ x: 0, y: 0 })
  expect(origin.x).toBeCloseTo(Math.round(origin.x), 6)
  expect(origin.y).toBeCloseTo(Math.round(origin.y), 6)
  view.fit()
  expect(surface.smoothed).toBe(true)
})

test('a scale that is asked for is where it stays; a turn of the wheel may be one of many', () => {
  showWhole(content('denoised'))
  view.stepZoom(1)
  expect(surface.rests).toBe(0)
  view.zoomTo(1)
  expect(surface.rests).toBe(1)
  view.lookAt({ x: 900, y: 700 }, 2)
  expect(surface.rests).toBe(2)
})

test('the wheel goes through the scales, about the pointer', () => {
  showWhole(content('a'))
  const under = { x: 0.25, y: 0.25 }
  const seen: number[] = []
  const before = surface.toPane(under)
  for (let turn = 0; turn < 3; turn++) {
    events.wheel(1, under)
    seen.push(view.scale)
  }
  expect(seen).toEqual([0.25, 0.5, 1])
  expect(surface.toPane(under).x).toBeCloseTo(before.x, 0)
  events.wheel(-1, under)
  expect(view.scale).toBe(0.5)
})

test('others are told when somebody moves it, and not when it follows them', () => {
  showWhole(content('a'))
  moved.length = 0
  view.setView({ x: 0.3, y: 0.3, scale: 2 })
  expect(moved).toEqual([])
  view.panBy(10, 0)
  expect(moved).toHaveLength(1)
  events.panned()
  expect(moved).toHaveLength(1)
  events.dragged()
  events.panned()
  events.dropped()
  expect(moved).toHaveLength(3)
})

test('looks at the same place at the same scale after the pane has another size', () => {
  showWhole(content('a'))
  view.lookAt({ x: 1000, y: 600 }, 2)
  const before = view.view()!
  view.outgrown(true)
  surface.width = 500
  surface.zoom *= 0.7
  view.panBy(0, 0)
  events.resized()
  expect(view.view()!.scale).toBeCloseTo(before.scale)
  expect(view.view()!.x).toBeCloseTo(before.x, 3)
})

test('a view that is fitted is fitted again', () => {
  showWhole(content('a'))
  surface.width = 400
  events.resized()
  expect(view.scale).toBeCloseTo(0.1)
})

test('a view that was given before anything was there stands', () => {
  view.show(content('a'))
  view.setView({ x: 0.25, y: 0.25, scale: 4 })
  surface.arrive()
  expect(view.scale).toBeCloseTo(4)
})

test('the divider hides the columns left of it', () => {
  showWhole(content('a'))
  view.show(content('a', { showing: 'divider', divider: 0.25 }))
  expect(sheetOf('a').hidden).toBe(1000)
  expect(sheetOf('original').opacity).toBe(1)
  view.show(content('a', { showing: 'divider', divider: 1 }))
  expect(sheetOf('a').opacity).toBe(0)
  view.show(content('a', { showing: 'below' }))
  expect([sheetOf('a').opacity, sheetOf('original').opacity]).toEqual([0, 1])
  view.show(content('a'))
  expect([sheetOf('a').opacity, sheetOf('a').hidden]).toEqual([1, 0])
  expect(surface.redraws).toBe(4)
})

test('places are told in pixels of the reference, and none beside the picture', () => {
  showWhole(content('a'))
  events.doubleClicked({ x: 0.25, y: 0.3 })
  events.doubleClicked({ x: 0.25, y: 0.8 })
  events.doubleClicked({ x: -0.1, y: 0.3 })
  expect(pinned).toEqual([{ x: 1000, y: 1200 }])
})

test('the small picture of the whole is of use where only a part is seen', () => {
  showWhole(content('a'))
  expect(surface.navigated).toBe(false)
  view.zoomTo(1)
  expect(surface.navigated).toBe(true)
})
