<script setup lang="ts">
import OpenSeadragon from 'openseadragon'
import { onBeforeUnmount, onMounted, ref, watch } from 'vue'

import type { Schemas } from '../api/client'

export type Showing = 'result' | 'original' | 'divider'
/** Where a pane looks: the point of the picture (0..1 of its width) in its middle, and device pixels per result pixel. */
export interface View {
  x: number
  y: number
  scale: number
}

type Size = Schemas['SizeOut']

const props = defineProps<{
  takeId: string
  result: { chain: string; size: Size }
  original: { chain: string; size: Size }
  /** What scales and places are told in: the pixels of the take's result, whichever layer this pane shows. */
  reference: Size
  showing: Showing
  divider: number
}>()
const emit = defineEmits<{
  view: [view: View]
  pointer: [place: { x: number; y: number } | null]
  computing: [busy: boolean]
}>()

const tileSide = 512
const steps = [0.0625, 0.125, 0.25, 0.5, 1, 2, 4, 8]
const holder = ref<HTMLElement>()
const paneId = crypto.randomUUID()
let viewer: OpenSeadragon.Viewer | undefined
let below: OpenSeadragon.TiledImage | undefined
let belowChain = ''
let shown: OpenSeadragon.TiledImage | undefined
let older: OpenSeadragon.TiledImage | undefined
let generation = 0
let fitted = true
let following = false
let smooth = true

const density = () => window.devicePixelRatio || 1

/** Tiles of a chain. The header tells the server which requests are moot once the take has changed again. */
function tileSource(chain: string, size: Size) {
  const top = Math.max(0, Math.ceil(Math.log2(Math.max(size.width, size.height) / tileSide)))
  return {
    width: size.width,
    height: size.height,
    tileSize: tileSide,
    // Without overlap the viewer stretches tiles by a pixel to hide gaps, and pixels would no longer be true.
    tileOverlap: 1,
    minLevel: 0,
    maxLevel: top,
    // Drawn straight onto the canvas: what the viewer takes for transparent goes through a second, smoothing one.
    hasTransparency: () => false,
    getTileUrl: (level: number, x: number, y: number) => `/api/takes/${props.takeId}/tiles/${chain}/${top - level}/${x}_${y}.png`,
  }
}

function add(layer: { chain: string; size: Size }, index: number, loaded: (item: OpenSeadragon.TiledImage) => void) {
  const mine = generation
  viewer!.addTiledImage({
    tileSource: tileSource(layer.chain, layer.size) as unknown as OpenSeadragon.TileSource,
    x: 0,
    y: 0,
    width: 1,
    index,
    preload: true,
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
  generation++
  const reshaped = !shown || aspect(shown) !== aspectOf(props.result.size)
  if (older) viewer.world.removeItem(older)
  older = undefined
  if (shown && reshaped) viewer.world.removeItem(shown)
  else older = shown
  if (below && (reshaped || belowChain !== props.original.chain)) {
    viewer.world.removeItem(below)
    below = undefined
  }
  shown = undefined
  if (!below) {
    belowChain = props.original.chain
    add(props.original, 0, (item) => (below = item))
  }
  add(props.result, viewer.world.getItemCount() + 1, (item) => {
    shown = item
    item.addHandler('fully-loaded-change', () => {
      emit('computing', !item.getFullyLoaded())
      if (item.getFullyLoaded() && older && item === shown) {
        viewer?.world.removeItem(older)
        older = undefined
      }
    })
    emit('computing', true)
    // A view that was given before anything was loaded stands.
    if (fitted || (reshaped && before)) fit()
    else if (before) setView(before)
    arrange()
  })
}

const aspectOf = (size: Size) => (size.height / size.width).toFixed(2)
const aspect = (item: OpenSeadragon.TiledImage) => (item.getContentSize().y / item.getContentSize().x).toFixed(2)

function arrange() {
  if (!viewer || !shown) return
  const hidden = props.showing === 'original'
  // Nothing shines through what is transparent in a result that is all there.
  const covered = props.showing === 'result' && shown.getFullyLoaded() ? 0 : 1
  if (below && below.getOpacity() !== covered) below.setOpacity(covered)
  for (const item of [older, shown]) {
    if (!item) continue
    let opacity = hidden ? 0 : 1
    let clip: OpenSeadragon.Rect | null = null
    if (props.showing === 'divider') {
      const edge = viewer.viewport.pointFromPixel(new OpenSeadragon.Point(props.divider * holder.value!.clientWidth, 0), true).x
      const size = item.getContentSize()
      const left = Math.round(edge * size.x)
      if (left >= size.x) opacity = 0
      else if (left > 0) clip = new OpenSeadragon.Rect(left, 0, size.x - left, size.y)
    }
    if (item.getOpacity() !== opacity) item.setOpacity(opacity)
    const known = item.getClip()
    if (known?.x !== clip?.x || Boolean(known) !== Boolean(clip)) item.setClip(clip)
  }
  // At full size and above every pixel of what is looked at is shown as it is.
  const own = (scale() * props.reference.width) / props.result.size.width
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
  following = true
  fitted = false
  viewer.viewport.zoomTo((to.scale * props.reference.width) / (holder.value!.clientWidth * density()), undefined, true)
  viewer.viewport.panTo(new OpenSeadragon.Point(to.x, to.y), true)
  snap()
  arrange()
  following = false
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

function tell() {
  const now = following ? null : view()
  if (now) emit('view', now)
}

function fit() {
  fitted = true
  viewer?.viewport.fitBounds(new OpenSeadragon.Rect(0, 0, 1, props.result.size.height / props.result.size.width), true)
  // Small pictures are not blown up just to fill the pane.
  if (scale() > 1) setView({ x: 0.5, y: props.result.size.height / props.result.size.width / 2, scale: 1 })
  fitted = true
  arrange()
  tell()
}

/** To a scale about a point of the pane (its middle if none is given). */
function zoomTo(to: number, about?: OpenSeadragon.Point) {
  if (!viewer) return
  fitted = false
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
    showNavigator: false,
    loadTilesWithAjax: true,
    // Browsers open six connections to a server; saving a change must never wait for tiles.
    imageLoaderLimit: 2,
    tileRetryMax: 3,
    tileRetryDelay: 1500,
    timeout: 120_000,
    animationTime: 0,
    visibilityRatio: 0.2,
    minZoomImageRatio: 0.01,
    maxZoomPixelRatio: 64,
    smoothTileEdgesMinZoom: Infinity,
    immediateRender: false,
    preserveImageSizeOnResize: true,
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
  viewer.addHandler('canvas-drag', () => (fitted = false))
  viewer.addHandler('canvas-drag-end', () => {
    snap()
    tell()
  })
  viewer.addHandler('update-viewport', arrange)
  viewer.addHandler('pan', tell)
  viewer.addHandler('resize', () => requestAnimationFrame(() => (fitted ? fit() : tell())))
  new OpenSeadragon.MouseTracker({
    element: viewer.canvas,
    moveHandler: (event) => {
      const { position } = event as unknown as { position: OpenSeadragon.Point }
      const point = viewer!.viewport.pointFromPixel(position, true)
      const x = Math.floor(point.x * props.reference.width)
      const y = Math.floor(point.y * props.reference.width)
      const inside = x >= 0 && y >= 0 && x < props.reference.width && y < props.reference.height
      emit('pointer', inside ? { x, y } : null)
    },
    leaveHandler: () => emit('pointer', null),
  })
  load()
})
onBeforeUnmount(() => {
  watching?.disconnect()
  viewer?.destroy()
})

watch(() => [props.takeId, props.result.chain, props.original.chain], load)
watch(() => [props.showing, props.divider], () => {
  arrange()
  viewer?.forceRedraw()
})

defineExpose({ fit, zoomTo, stepZoom, panBy, setView, view })
</script>

<template>
  <div ref="holder" class="pane" />
</template>

<style scoped>
.pane {
  position: absolute;
}
</style>
