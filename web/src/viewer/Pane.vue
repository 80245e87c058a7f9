<script setup lang="ts">
import { onBeforeUnmount, onMounted, ref, watch } from 'vue'

import type { Layer, Size } from './layer'
import { OpenSeadragonSurface } from './openSeadragonSurface'
import type { Showing, View } from './content'
import type { Point } from './surface'
import { TileView } from './tileView'

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

const holder = ref<HTMLElement>()
let surface: OpenSeadragonSurface | undefined
let tiles: TileView | undefined
let watching: ResizeObserver | undefined

/** Lay the pane on whole device pixels: a canvas of a fractional size is resampled by the browser. */
function align() {
  const pane = holder.value
  const room = pane?.parentElement?.getBoundingClientRect()
  if (!pane || !room) return
  const density = window.devicePixelRatio || 1
  const up = (length: number) => Math.ceil(length * density - 1e-3) / density
  const down = (length: number) => Math.floor(length * density + 1e-3) / density
  const [left, top] = [up(room.left), up(room.top)]
  Object.assign(pane.style, {
    left: `${left - room.left}px`,
    top: `${top - room.top}px`,
    width: `${down(room.right) - left}px`,
    height: `${down(room.bottom) - top}px`,
  })
  surface?.measure()
  if (surface && tiles) tiles.outgrown(!surface.known)
}

const content = () => {
  const { top, below, reference, showing, divider } = props
  return { top, below, reference, showing, divider }
}

onMounted(() => {
  align()
  watching = new ResizeObserver(align)
  watching.observe(holder.value!.parentElement!)
  surface = new OpenSeadragonSurface(holder.value!, props.navigator)
  tiles = new TileView(
    surface,
    {
      moved: (view) => emit('view', view),
      at: (view) => emit('at', view),
      computing: (busy) => emit('computing', busy),
    },
    crypto.randomUUID(),
  )
  surface.listen(
    tiles.handlers(
      (pixel) => emit('pin', pixel),
      (pixel) => emit('pointer', pixel),
    ),
  )
  tiles.show(content())
})
onBeforeUnmount(() => {
  watching?.disconnect()
  surface?.destroy()
})
watch(content, (now) => tiles?.show(now))

defineExpose({
  fit: () => tiles?.fit(),
  zoomTo: (scale: number) => tiles?.zoomTo(scale),
  /** One step in or out, about a place in the pane (CSS pixels; its middle if none is given). */
  stepZoom: (way: 1 | -1, about?: Point) => tiles?.stepZoom(way, about && surface?.toPlace(about)),
  panBy: (x: number, y: number) => tiles?.panBy(x, y),
  setView: (view: View) => tiles?.setView(view),
  lookAt: (place: { x: number; y: number }, scale: number) => tiles?.lookAt(place, scale),
  view: () => tiles?.view() ?? null,
})
</script>

<template>
  <div ref="holder" class="pane" />
</template>

<style scoped>
.pane {
  position: absolute;
}
</style>
