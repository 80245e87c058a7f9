<script setup lang="ts">
import OpenSeadragon from 'openseadragon'
import { onBeforeUnmount, onMounted, ref, watch } from 'vue'

import type { Schemas } from '../api/client'
import { sameLayer, tileOf, type Layer } from './layer'
import { TileQueue, type Job } from './tileQueue'

export type Showing = 'top' | 'below' | 'divider'
/** Where a pane looks: the point of the picture (0..1 of its width) in its middle, and device pixels per pixel of the reference. */
export interface View {
  x: number
  y: number
  scale: number
}

type Size = Schemas['SizeOut']

const props = defineProps<{
  top: Layer
  /** What shows through where the top one does not; left of the divider. */
  below: Layer
  /** What scales and places are told in: the pixels of the leading take's result, whatever this pane shows. */
  reference: Size
  showing: Showing
  divider: number
  navigator?: boolean
}>()
const emit = defineEmits<{
  /** Somebody has moved this pane. */
  view: [view: View]
  /** Where it looks now, whoever moved it. */
  at: [view: View]
  pointer: [place: { x: number; y: number } | null]
  pin: [place: { x: number; y: number }]
  computing: [busy: boolean]
}>()

const tileSide = 512
const steps = [0.0625, 0.125, 0.25, 0.5, 1, 2, 4, 8]
const holder = ref<HTMLElement>()
const paneId = crypto.randomUUID()
let viewer: OpenSeadragon.Viewer | undefined
let under: OpenSeadragon.TiledImage | undefined
let underLayer: Layer | undefined
let shown: OpenSeadragon.TiledImage | undefined
/** Whether any of its pixels are there. */
let begun = false
let older: OpenSeadragon.TiledImage | undefined
let generation = 0
// Browsers open six connections to a server; saving a change must never wait for tiles.
const downloads = new TileQueue(props.navigator ? 3 : 1)
/** The last view that was asked for by the others, or told to them. */
let told: View | null = null
/** The pane has another size than the viewer knows; what it says of its view is wrong until it has noticed. */
let resizing = false
/** Counts the views that were asked for. */
let looks = 0
let fitted = true
let dragging = false
let smooth = true

const density = () => window.devicePixelRatio || 1

const downloadTile = (OpenSeadragon.TileSource.prototype as unknown as { downloadTileStart: (this: OpenSeadragon.TileSource, job: Job) => void }).downloadTileStart

/** Where the viewer gets a layer's tiles. Once it is `outdated` no more are asked for: the server would refuse each, over and over. */
function tileSource(layer: Layer, outdated: () => boolean) {
  const top = Math.max(0, Math.ceil(Math.log2(Math.max(layer.size.width, layer.size.height) / tileSide)))
  return {
    width: layer.size.width,
    height: layer.size.height,
    tileSize: tileSide,
    // Without overlap the viewer stretches tiles by a pixel to hide gaps, and pixels would no longer be true.
    tileOverlap: 1,
    minLevel: 0,
    maxLevel: top,
    // Drawn straight onto the canvas: what the viewer takes for transparent goes through a second, smoothing one.
    hasTransparency: () => false,
    getTileUrl: (level: number, x: number, y: number) => tileOf(layer, top - level, x, y),
    downloadTileStart(this: OpenSeadragon.TileSource, job: Job) {
      downloads.add(job, looks, () => {
        if (!outdated()) return downloadTile.call(this, job)
        job.tries = Infinity
        job.fail('outdated', null)
      })
    },
  }
}

function add(layer: Layer, index: number, lasting: boolean, loaded: (item: OpenSeadragon.TiledImage) => void) {
  const mine = generation
  viewer!.addTiledImage({
    tileSource: tileSource(layer, () => !lasting && mine !== generation) as unknown as OpenSeadragon.TileSource,
    ...layer.at,
    index,
    opacity: lasting ? 1 : 0,
    preload: true,
    // The header tells the server which requests are moot once the take has changed again.
    ajaxHeaders: { 'X-Kite-View': `${paneId} ${mine}` },
    success: (event) => {
      const item = (event as unknown as { item: OpenSeadragon.TiledImage }).item
      if (mine !== generation) viewer?.world.removeItem(item)
      else loaded(item)
    },
  })
}

/** Bring in the take as it is now; what was shown stays below until the new pixels are there. */
function load() {
  if (!viewer) return
  const before = view()
  const looked = looks
  generation++
  // From now on, not only once the new layer is there: what is seen meanwhile is not the take as it is.
  emit('computing', true)
  const reshaped = !shown || aspect(shown) !== aspectOf(props.top.size)
  if (older) viewer.world.removeItem(older)
  older = undefined
  if (shown && reshaped) viewer.world.removeItem(shown)
  else older = shown
  if (under && (reshaped || !underLayer || !sameLayer(underLayer, props.below))) {
    viewer.world.removeItem(under)
    under = undefined
  }
  shown = undefined
  begun = false
  if (!under) {
    underLayer = props.below
    add(props.below, 0, true, (item) => (under = item))
  }
  add(props.top, viewer.world.getItemCount() + 1, false, (item) => {
    shown = item
    item.addHandler('fully-loaded-change', () => {
      // One that is only shown until the new pixels are there says nothing about those.
      if (item !== shown) return
      emit('computing', !item.getFullyLoaded())
      if (item.getFullyLoaded() && older) {
        viewer?.world.removeItem(older)
        older = undefined
      }
    })
    emit('computing', true)
    // A view that was given before anything was loaded stands.
    if (fitted || (reshaped && before && looks === looked)) fit()
    arrange()
    tellWhere()
  })
}

const aspectOf = (size: Size) => (size.height / size.width).toFixed(2)
const aspect = (item: OpenSeadragon.TiledImage) => (item.getContentSize().y / item.getContentSize().x).toFixed(2)

function arrange() {
  if (!viewer || !shown) return
  const hidden = props.showing === 'below'
  // Nothing shines through what is transparent in a result that is all there.
  const covered = props.showing === 'top' && shown.getFullyLoaded() ? 0 : 1
  if (under && under.getOpacity() !== covered) under.setOpacity(covered)
  for (const item of [older, shown]) {
    if (!item) continue
    // As long as there is nothing to draw of what is visible, the viewer tries again in every frame.
    let opacity = hidden || (item === shown && !begun) ? 0 : 1
    let clip: OpenSeadragon.Rect | null = null
    if (props.showing === 'divider') {
      const edge = viewer.viewport.pointFromPixel(new OpenSeadragon.Point(props.divider * holder.value!.clientWidth, 0), true).x
      const size = item.getContentSize()
      const left = Math.round(((edge - props.top.at.x) / props.top.at.width) * size.x)
      if (left >= size.x) opacity = 0
      else if (left > 0) clip = new OpenSeadragon.Rect(left, 0, size.x - left, size.y)
    }
    if (item.getOpacity() !== opacity) item.setOpacity(opacity)
    const known = item.getClip()
    if (known?.x !== clip?.x || Boolean(known) !== Boolean(clip)) item.setClip(clip)
  }
  // At full size and above every pixel of what is looked at is shown as it is.
  const own = (scale() * props.reference.width * props.top.at.width) / props.top.size.width
  // Turning it on or off asks for a redraw, so only on a change.
  if (own < 0.999 !== smooth) viewer.drawer.setImageSmoothingEnabled((smooth = own < 0.999))
}

function scale(): number {
  if (!viewer) return 1
  return (viewer.viewport.getZoom(true) * holder.value!.clientWidth * density()) / props.reference.width
}

function view(): View | null {
  if (!viewer || !shown) return null
  const middle = viewer.viewport.getCenter(true)
  return { x: middle.x, y: middle.y, scale: scale() }
}

/** Look where another pane looks; the others are not told, or two panes would answer each other for ever. */
function setView(to: View) {
  if (!viewer) return
  fitted = false
  looks++
  // It stands even if the pane changes size before it has anything to show.
  told = to
  viewer.viewport.zoomTo((to.scale * props.reference.width) / (holder.value!.clientWidth * density()), undefined, true)
  viewer.viewport.panTo(new OpenSeadragon.Point(to.x, to.y), true)
  snap()
  arrange()
  tellWhere()
}

/** Put picture pixels exactly on screen pixels, so that none is drawn wider than its neighbour. */
function snap() {
  if (!viewer || scale() < 0.999) return
  const origin = viewer.viewport.pixelFromPoint(new OpenSeadragon.Point(0, 0), true)
  const off = new OpenSeadragon.Point(
    origin.x - Math.round(origin.x * density()) / density(),
    origin.y - Math.round(origin.y * density()) / density(),
  )
  if (Math.abs(off.x) + Math.abs(off.y) > 1e-6) viewer.viewport.panBy(viewer.viewport.deltaPointsFromPixels(off, true), true)
}

/** Somebody has moved this pane: the others follow. */
function tell() {
  const now = tellWhere()
  if (now) emit('view', now)
}

function tellWhere(): View | null {
  const now = resizing ? null : view()
  if (!now) return null
  told = now
  emit('at', now)
  // A small picture of the whole is of use where only a part is seen.
  const seen = viewer?.viewport.getBounds(true)
  const whole = seen && seen.x <= 0.01 && seen.y <= 0.01 && seen.width >= 0.98 && seen.height >= (0.98 * props.reference.height) / props.reference.width
  if (viewer?.navigator) {
    viewer.navigator.element.style.display = whole ? 'none' : ''
    viewer.navigator.viewport?.goHome(true)
  }
  return now
}

function fit() {
  fitted = true
  viewer?.viewport.fitBounds(new OpenSeadragon.Rect(0, 0, 1, props.reference.height / props.reference.width), true)
  // Small pictures are not blown up just to fill the pane.
  if (scale() > 1) setView({ x: 0.5, y: props.reference.height / props.reference.width / 2, scale: 1 })
  fitted = true
  arrange()
  tell()
}

/** To a scale about a point of the pane (its middle if none is given). */
function zoomTo(to: number, about?: OpenSeadragon.Point) {
  if (!viewer) return
  fitted = false
  looks++
  const zoom = (to * props.reference.width) / (holder.value!.clientWidth * density())
  viewer.viewport.zoomTo(zoom, about, true)
  snap()
  arrange()
  tell()
}

function stepZoom(direction: 1 | -1, about?: OpenSeadragon.Point) {
  const now = scale()
  const next = direction > 0 ? steps.find((one) => one > now * 1.001) : steps.findLast((one) => one < now * 0.999)
  if (next !== undefined) zoomTo(next, about)
}

function panBy(x: number, y: number) {
  if (!viewer) return
  fitted = false
  looks++
  viewer.viewport.panBy(viewer.viewport.deltaPointsFromPixels(new OpenSeadragon.Point(x, y), true), true)
  snap()
  arrange()
  tell()
}

/** Lay the pane on whole device pixels: a canvas of a fractional size is resampled by the browser. */
function align() {
  const pane = holder.value
  const room = pane?.parentElement?.getBoundingClientRect()
  if (!pane || !room) return
  const up = (length: number) => Math.ceil(length * density() - 1e-3) / density()
  const down = (length: number) => Math.floor(length * density() + 1e-3) / density()
  const left = up(room.left)
  const top = up(room.top)
  Object.assign(pane.style, {
    left: `${left - room.left}px`,
    top: `${top - room.top}px`,
    width: `${down(room.right) - left}px`,
    height: `${down(room.bottom) - top}px`,
  })
  const known = viewer?.viewport.getContainerSize()
  if (known) resizing = known.x !== pane.clientWidth || known.y !== pane.clientHeight
}

/** The reference pixel under a point of the pane, as fractions too; null beside the picture. */
function placeUnder(position: OpenSeadragon.Point) {
  const point = viewer!.viewport.pointFromPixel(position, true)
  const place = { x: point.x * props.reference.width, y: point.y * props.reference.width }
  const inside = place.x >= 0 && place.y >= 0 && place.x < props.reference.width && place.y < props.reference.height
  return inside ? place : null
}

/** Look at a place of the reference, in its middle. */
function lookAt(place: { x: number; y: number }, scale: number) {
  setView({ x: place.x / props.reference.width, y: place.y / props.reference.width, scale })
  tell()
}

let lastWheel = 0
let watching: ResizeObserver | undefined

onMounted(() => {
  align()
  watching = new ResizeObserver(align)
  watching.observe(holder.value!.parentElement!)
  viewer = new OpenSeadragon.Viewer({
    element: holder.value!,
    drawer: 'canvas',
    showNavigationControl: false,
    showNavigator: Boolean(props.navigator),
    navigatorPosition: 'TOP_RIGHT',
    navigatorWidth: 150,
    navigatorHeight: 112,
    navigatorAutoFade: false,
    navigatorBackground: 'transparent',
    navigatorBorderColor: 'rgba(255, 255, 255, 0.6)',
    navigatorDisplayRegionColor: '#fff',
    loadTilesWithAjax: true,
    // As many as it likes: they queue in `downloads`, and may wait there.
    imageLoaderLimit: 0,
    tileRetryMax: 3,
    tileRetryDelay: 1500,
    timeout: 600_000,
    animationTime: 0,
    visibilityRatio: 0.2,
    minZoomImageRatio: 0.01,
    maxZoomPixelRatio: 64,
    smoothTileEdgesMinZoom: Infinity,
    immediateRender: false,
    preserveViewport: true,
    gestureSettingsMouse: { clickToZoom: false, dblClickToZoom: false, flickEnabled: false, scrollToZoom: false },
    gestureSettingsTouch: { clickToZoom: false, dblClickToZoom: false, flickEnabled: false },
    gestureSettingsPen: { clickToZoom: false, dblClickToZoom: false, flickEnabled: false },
  })
  // The bench has keys of its own.
  viewer.addHandler('canvas-key', (event) => (event.preventDefaultAction = true))
  viewer.addHandler('canvas-scroll', (event) => {
    ;(event as unknown as { preventDefault: boolean }).preventDefault = true
    const { scroll, position } = event as unknown as { scroll: number; position: OpenSeadragon.Point }
    if (performance.now() - lastWheel < 90) return
    lastWheel = performance.now()
    stepZoom(scroll > 0 ? 1 : -1, viewer!.viewport.pointFromPixel(position, true))
  })
  viewer.addHandler('canvas-drag', () => {
    fitted = false
    looks++
    dragging = true
  })
  viewer.addHandler('canvas-double-click', (event) => {
    const place = placeUnder((event as unknown as { position: OpenSeadragon.Point }).position)
    if (place) emit('pin', place)
  })
  viewer.addHandler('canvas-drag-end', () => {
    dragging = false
    snap()
    tell()
  })
  viewer.addHandler('update-viewport', arrange)
  // What was loaded is drawn next.
  viewer.addHandler('tile-loaded', (event) => {
    begun ||= event.tiledImage === shown
  })
  viewer.addHandler('pan', () => dragging && tell())
  // However a pane changes size, it goes on looking at the same place at the same scale.
  viewer.addHandler('resize', () =>
    // The viewer zooms once more after it has said so.
    requestAnimationFrame(() => {
      resizing = false
      if (fitted || !told) fit()
      else setView(told)
    }),
  )
  new OpenSeadragon.MouseTracker({
    element: viewer.canvas,
    moveHandler: (event) => {
      emit('pointer', placeUnder((event as unknown as { position: OpenSeadragon.Point }).position))
    },
    leaveHandler: () => emit('pointer', null),
  })
  load()
})
onBeforeUnmount(() => {
  watching?.disconnect()
  viewer?.destroy()
})

watch(() => [props.top, props.below], (now, before) => {
  if (!sameLayer(now[0]!, before[0]!) || !sameLayer(now[1]!, before[1]!)) load()
})
watch(() => [props.showing, props.divider], () => {
  arrange()
  viewer?.forceRedraw()
})

defineExpose({ fit, zoomTo, stepZoom, panBy, setView, lookAt, view })
</script>

<template>
  <div ref="holder" class="pane" />
</template>

<style scoped>
.pane {
  position: absolute;
}
</style>
