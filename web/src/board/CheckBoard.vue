<script setup lang="ts">
import { mdiArrowExpandVertical, mdiChevronDown, mdiChevronUp, mdiFileCompare, mdiMapMarkerPlusOutline } from '@mdi/js'
import { computed, nextTick, onBeforeUnmount, ref, watch } from 'vue'

import type { Take, useTakes } from '../takes/useTakes'
import BoardRowHead from './BoardRowHead.vue'
import CellPicture from './CellPicture.vue'
import TryEngines from './TryEngines.vue'
import { cutAddress, cutAround, fineness, type Cut } from './cell'
import { useCells, type Wanted } from './useCells'
import type { Mark, Spot, useSpots } from './useSpots'

export type BoardSize = 'folded' | 'open' | 'full'

const props = defineProps<{
  takes: ReturnType<typeof useTakes>
  spots: ReturnType<typeof useSpots>
  /** The take in the large view. */
  leadId?: string
}>()
const size = defineModel<BoardSize>('size', { required: true })
const emit = defineEmits<{
  show: [takeId: string]
  look: [takeId: string, spot: Spot, zoom: number]
  duplicate: [take: Take]
}>()

const zooms = [1, 2, 4]
const zoom = ref(2)
const body = ref<HTMLElement>()
const hovered = ref<{ row: number; column: number } | null>(null)
const active = ref({ row: 0, column: 0 })

const spots = computed(() => props.spots.spots.value)
const takes = computed(() => props.takes.takes.value.filter((take) => take.plan))
/** The take whose result is finest: what the zoom is told in, and what the original is enlarged to. */
const finest = computed(() => takes.value.reduce<Take | undefined>((best, take) => (!best || fineness(take.plan!) > fineness(best.plan!) ? take : best), undefined))
const cell = computed(() => (size.value === 'full' ? { width: 204, height: 152 } : { width: 124, height: 84 }))

interface Cell {
  spot: Spot
  cut: Cut | null
  address: string | null
  mark: Mark
}
interface Row {
  take: Take | null
  cells: Cell[]
}
const rows = computed<Row[]>(() => {
  const best = finest.value
  if (!best?.plan) return []
  const scale = fineness(best.plan)
  const cellOf = (take: Take, spot: Spot, chain: string, mark: Mark): Cell => {
    const place = spot.places[take.id]
    const cut = place ? cutAround(take.plan!, place, scale, zoom.value, cell.value.width, cell.value.height) : null
    return { spot, cut, address: cut && cutAddress(take.id, chain, cut), mark }
  }
  return [
    { take: null, cells: spots.value.map((spot) => cellOf(best, spot, best.plan!.plain_chain, '')) },
    ...takes.value.map((take) => ({ take, cells: spots.value.map((spot) => cellOf(take, spot, take.plan!.chain, spot.marks[take.id] ?? '')) })),
  ]
})

const scrolled = ref({ top: 0, left: 0, width: 1200, height: 300 })
function measure() {
  const box = body.value
  if (box) scrolled.value = { top: box.scrollTop, left: box.scrollLeft, width: box.clientWidth, height: box.clientHeight }
}
let watching: ResizeObserver | undefined
watch(body, (box) => {
  watching?.disconnect()
  if (!box) return
  watching = new ResizeObserver(measure)
  watching.observe(box)
})
onBeforeUnmount(() => watching?.disconnect())

/** What can be seen comes before what cannot, what is near the pointer before what is far from it. */
const wanted = computed<Wanted[]>(() => {
  if (size.value === 'folded') return []
  const near = hovered.value ?? active.value
  const { top, left, width, height } = scrolled.value
  return rows.value.flatMap((row, y) =>
    row.cells.flatMap(({ address }, x) => {
      if (!address) return []
      const [above, before] = [y * cell.value.height, x * cell.value.width]
      const seen = above < top + height && above + cell.value.height > top && before < left + width && before + cell.value.width > left
      // The original is quick, and stands in for the others until they are there.
      return [{ address, urgency: (seen ? 0 : 1000) + (row.take ? 100 : 0) + Math.hypot(y - near.row, x - near.column) }]
    }),
  )
})
const { cells, again } = useCells(() => wanted.value)

const blinking = ref(false)
const swapped = ref(false)
let beat: ReturnType<typeof setInterval> | undefined
function blink() {
  blinking.value = !blinking.value
  clearInterval(beat)
  swapped.value = false
  if (blinking.value) beat = setInterval(() => (swapped.value = !swapped.value), 500)
}
onBeforeUnmount(() => clearInterval(beat))
/** The row the active one blinks with: the one above it, and for the first one the one below. */
const partner = computed(() => (active.value.row > 0 ? active.value.row - 1 : 1))
const rowName = (row: Row | undefined) => (row?.take ? row.take.name : 'original')

function shownCell(y: number, x: number): Cell {
  const row = swapped.value && y === active.value.row ? partner.value : y
  return (rows.value[row] ?? rows.value[y]!).cells[x]!
}

function moveTo(row: number, column: number) {
  active.value = {
    row: Math.max(0, Math.min(rows.value.length - 1, row)),
    column: Math.max(0, Math.min(spots.value.length - 1, column)),
  }
  void nextTick(() => body.value?.querySelector('[data-active=true]')?.scrollIntoView({ block: 'nearest', inline: 'nearest' }))
}
function look(y: number, x: number) {
  moveTo(y, x)
  const row = rows.value[y]
  const spot = spots.value[x]
  const id = row?.take?.id ?? props.leadId
  if (row && spot && id) emit('look', id, spot, zoom.value)
}
function mark(value: Mark) {
  const row = rows.value[active.value.row]
  const found = row?.cells[active.value.column]
  if (row?.take && found) props.spots.mark.mutate({ take: row.take.id, spot: found.spot.id, value: found.mark === value ? '' : value })
}
function choose(take: Take | null | undefined) {
  if (take) props.takes.alter.mutate({ id: take.id, chosen: !take.chosen })
}

/** Keys while the board has the focus; the bench does not hear them. */
function pressed(event: KeyboardEvent) {
  if (event.ctrlKey || event.metaKey || event.altKey) return
  if (event.target instanceof HTMLInputElement) return event.stopPropagation()
  const { row, column } = active.value
  const acts: Record<string, () => void> = {
    ArrowLeft: () => moveTo(row, column - 1),
    ArrowRight: () => moveTo(row, column + 1),
    ArrowUp: () => moveTo(row - 1, column),
    ArrowDown: () => moveTo(row + 1, column),
    Enter: () => look(row, column),
    '+': () => mark('good'),
    '-': () => mark('bad'),
    c: () => choose(rows.value[row]?.take),
    ' ': blink,
    ...Object.fromEntries(zooms.map((one) => [String(one), () => (zoom.value = one)])),
    Delete: () => spots.value[column] && props.spots.remove.mutate(spots.value[column]),
  }
  const act = acts[event.key]
  if (!act || event.target instanceof HTMLButtonElement && event.key === 'Enter') return
  event.preventDefault()
  event.stopPropagation()
  act()
}

const chooser = ref<HTMLInputElement>()
function chosen(event: Event) {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  if (file) bring(file)
  input.value = ''
}
function bring(file: File) {
  props.takes.bring.mutate(file, { onSuccess: (take) => emit('show', take.id) })
}
/** A file let go over the board is a take made elsewhere; anything else that is dragged is one of the rows. */
function fileDropped(event: DragEvent) {
  const file = event.dataTransfer?.files[0]
  if (file) bring(file)
}

const renaming = ref<{ id: string; name: string } | null>(null)
function rename() {
  const wish = renaming.value
  renaming.value = null
  const spot = spots.value.find((one) => one.id === wish?.id)
  if (wish && spot && wish.name.trim() && wish.name !== spot.name) props.spots.alter.mutate({ id: wish.id, name: wish.name.trim() })
}

function drop(dragged: string, onto: string) {
  const ids = takes.value.map((take) => take.id)
  const [from, to] = [ids.indexOf(dragged), ids.indexOf(onto)]
  if (from >= 0 && to >= 0 && from !== to) props.takes.order.mutate(ids.toSpliced(from, 1).toSpliced(to, 0, dragged))
}
function shift(take: Take, by: 1 | -1) {
  const other = takes.value[takes.value.indexOf(take) + by]
  if (other) drop(take.id, other.id)
}

const missing = computed(() => {
  const addresses = rows.value.flatMap((row) => row.cells.flatMap(({ address }) => address ?? []))
  return addresses.filter((address) => cells.get(address)?.state !== 'there').length
})
defineExpose({ focus: () => body.value?.focus(), missing })
</script>

<template>
  <section class="board" :class="size" aria-label="Check board" :data-missing="missing" @keydown="pressed" @dragover.prevent @drop.prevent="fileDropped">
    <header class="bar small">
      <button class="fold" :aria-expanded="size !== 'folded'" title="Fold or open the board (V)" @click="size = size === 'folded' ? 'open' : 'folded'">
        <v-icon :icon="size === 'folded' ? mdiChevronUp : mdiChevronDown" size="18" /> <strong>Check board</strong>
      </button>
      <template v-if="size === 'folded'">
        <button v-for="(spot, x) in spots" :key="spot.id" class="jump" :title="`Look at ${spot.name}`" @click="leadId && $emit('look', leadId, spot, zoom)">
          <b>{{ x + 1 }}</b> {{ spot.name }}
        </button>
        <span v-if="!spots.length" class="quiet">no check spots yet</span>
      </template>
      <template v-else>
        <v-btn size="small" :prepend-icon="mdiMapMarkerPlusOutline" :loading="props.spots.propose.isPending.value" title="Pin the places that tell most, each with its reason" @click="props.spots.propose.mutate()">Propose spots</v-btn>
        <v-btn size="small" :prepend-icon="mdiFileCompare" :loading="props.takes.bring.isPending.value" title="A result made elsewhere becomes a row, laid on this picture, to be compared" @click="chooser?.click()">Bring a take</v-btn>
        <input ref="chooser" type="file" hidden accept=".jpg,.jpeg,.png,.tif,.tiff,.webp,image/*" aria-label="File of a take made elsewhere" @change="chosen" />
        <TryEngines v-if="leadId" :try-engines="takes.length ? props.takes.tryEngines : undefined" :take-id="leadId" />
        <span class="quiet hint"><kbd>← → ↑ ↓</kbd> <kbd>Enter</kbd> look <kbd>+</kbd> <kbd>−</kbd> mark <kbd>Space</kbd> blink <kbd>C</kbd> choose</span>
      </template>
      <v-spacer />
      <span v-if="blinking" role="status">blinking {{ rowName(rows[active.row]) }} and {{ rowName(rows[partner]) }}</span>
      <span v-else-if="props.takes.bring.isPending.value" role="status">{{ props.takes.sent.value < 1 ? `bringing it in, ${Math.round(props.takes.sent.value * 100)} %` : 'laying it on the picture' }}</span>
      <span v-else-if="size !== 'folded' && missing" class="quiet" role="status">computing {{ missing }} {{ missing === 1 ? 'cell' : 'cells' }}</span>
      <div v-if="size !== 'folded'" class="zooms" role="group" aria-label="Board zoom">
        <button v-for="one in zooms" :key="one" :aria-pressed="zoom === one" :title="`Cells at ${one * 100} % (${one})`" @click="zoom = one">{{ one * 100 }} %</button>
      </div>
      <v-btn :icon="mdiArrowExpandVertical" size="x-small" :aria-label="size === 'full' ? 'Board beside the picture' : 'Board over the whole view'" title="Whole view (V)"
        :active="size === 'full'" @click="size = size === 'full' ? 'open' : 'full'" />
    </header>
    <div v-if="size !== 'folded'" ref="body" class="body" tabindex="0" aria-label="Cells" @scroll.passive="measure">
      <p v-if="props.spots.known.value && !spots.length" class="empty">
        Pin the places that must look right: double-click them in the picture, or press <kbd>K</kbd> with the pointer there. Each becomes a column here,
        every take a row, and every cell shows the file's own pixels.
      </p>
      <table v-else :style="{ '--cell-width': `${cell.width}px`, '--cell-height': `${cell.height}px` }">
        <thead>
          <tr>
            <th class="head" />
            <th v-for="(spot, x) in spots" :key="spot.id" scope="col" :title="spot.reason || 'Double-click to rename'">
              <input v-if="renaming?.id === spot.id" v-model="renaming.name" v-focus class="rename" aria-label="Name of the spot" maxlength="60"
                @keydown.enter="rename" @keydown.esc="renaming = null" @blur="rename" />
              <span v-else class="spot" @dblclick="renaming = { id: spot.id, name: spot.name }"><b>{{ x + 1 }}</b> {{ spot.name }}</span>
              <button class="off" :aria-label="`Take check spot ${spot.name} off`" title="Take off (Del)" @click="props.spots.remove.mutate(spot)">×</button>
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(row, y) in rows" :key="row.take?.id ?? 'original'" :class="{ lead: row.take?.id === leadId && row.take }">
            <th class="head" scope="row">
              <BoardRowHead v-if="row.take" :take="row.take" :lead="row.take.id === leadId" :alone="takes.length === 1" @show="emit('show', row.take.id)" @choose="choose(row.take)"
                @alter="(told) => props.takes.alter.mutate({ id: row.take!.id, ...told })" @duplicate="emit('duplicate', row.take)" @shift="shift(row.take, $event)"
                @discard="props.takes.discard.mutate(row.take)" @drop-on="drop($event, row.take.id)" />
              <span v-else class="original">original<span class="quiet small">plainly enlarged</span></span>
            </th>
            <td v-for="(_, x) in row.cells" :key="spots[x]!.id" :data-active="active.row === y && active.column === x" :class="{ active: active.row === y && active.column === x }"
              @pointerenter="hovered = { row: y, column: x }" @pointerleave="hovered = null" @click="moveTo(y, x); body?.focus()" @dblclick="look(y, x)">
              <CellPicture :cut="shownCell(y, x).cut" :state="shownCell(y, x).address ? cells.get(shownCell(y, x).address!) : undefined"
                :meanwhile="cells.get(rows[0]!.cells[x]!.address ?? '')?.source" :mark="row.cells[x]!.mark" :label="`${rowName(row)}, ${spots[x]!.name}`"
                @again="again(shownCell(y, x).address!)" />
            </td>
          </tr>
        </tbody>
      </table>
    </div>
  </section>
</template>

<style scoped>
.board {
  display: flex;
  flex-direction: column;
  min-height: 0;
  background: rgb(var(--v-theme-surface));
  border-top: 1px solid rgba(var(--v-theme-on-surface), 0.14);
}
.open {
  height: min(43vh, 364px);
}
.full {
  position: absolute;
  inset: 0;
  z-index: 3;
}
.bar {
  display: flex;
  align-items: center;
  gap: 10px;
  min-height: 34px;
  padding: 2px 12px 2px 8px;
  overflow: hidden;
  white-space: nowrap;
}
.fold {
  cursor: pointer;
}
.jump {
  padding: 1px 8px;
  border: 1px solid rgba(var(--v-theme-on-surface), 0.26);
  border-radius: 10px;
  cursor: pointer;
}
.hint kbd {
  margin-left: 6px;
}
.zooms {
  display: flex;
  border: 1px solid rgba(var(--v-theme-on-surface), 0.26);
  border-radius: 4px;
  overflow: hidden;
}
.zooms button {
  padding: 1px 8px;
  cursor: pointer;
}
.zooms button[aria-pressed='true'] {
  background: rgba(var(--v-theme-on-surface), 0.16);
  font-weight: 600;
}
.body {
  flex: 1;
  min-height: 0;
  overflow: auto;
  /* The cell that keys act on is outlined instead. */
  outline: none;
}
.empty {
  max-width: 620px;
  margin: 28px auto;
  padding: 0 16px;
}
table {
  border-collapse: separate;
  border-spacing: 3px 3px;
  padding: 0 9px 9px;
}
th {
  font-weight: 400;
  text-align: left;
}
thead th {
  position: sticky;
  top: 0;
  z-index: 1;
  height: 24px;
  max-width: var(--cell-width);
  font-size: 13px;
  background: rgb(var(--v-theme-surface));
}
.spot {
  display: block;
  padding-right: 18px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.off {
  position: absolute;
  right: 2px;
  top: 1px;
  padding: 0 4px;
  opacity: 0;
  cursor: pointer;
}
thead th:hover .off,
.off:focus-visible {
  opacity: 1;
}
.rename {
  width: 100%;
  background: rgb(var(--v-theme-background));
}
.head {
  position: sticky;
  left: 0;
  z-index: 2;
  width: 188px;
  min-width: 188px;
  background: rgb(var(--v-theme-surface));
  vertical-align: top;
}
.original {
  display: flex;
  flex-direction: column;
  padding: 4px 8px 0 22px;
}
td {
  width: var(--cell-width);
  height: var(--cell-height);
  padding: 0;
  cursor: pointer;
}
td.active {
  outline: 2px solid rgb(var(--v-theme-primary));
  outline-offset: 0;
}
</style>
