<script setup lang="ts">
import { computed, nextTick, ref } from 'vue'

import { useBeat } from '../parts/useBeat'
import { useAhead } from '../viewer/useAhead'
import type { Picture } from '../pictures/queries'
import type { Take } from '../takes/queries'
import type { useTakes } from '../takes/useTakes'
import BoardBar from './BoardBar.vue'
import BoardRowHead from './BoardRowHead.vue'
import type { BoardSize } from './boardSize'
import CellPicture from './CellPicture.vue'
import SpotHead from './SpotHead.vue'
import { cellSize, sourceAcross, startingZoom, zooms } from './cell'
import { finestFineness, rowName, rowsOf, wantedOf, type Cell, type RowTake } from './rows'
import { useBeside } from './useBeside'
import { useCells } from './useCells'
import { useScrolled } from './useScrolled'
import type { Mark, Spot, useSpots } from './useSpots'

const props = defineProps<{
  takes: ReturnType<typeof useTakes>
  spots: ReturnType<typeof useSpots>
  /** The take in the large view. */
  leadId?: string
  picture: Picture
}>()
const size = defineModel<BoardSize>('size', { required: true })
const emit = defineEmits<{
  show: [takeId: string]
  look: [takeId: string, spot: Spot, zoom: number]
  duplicate: [take: Take]
  rehearse: []
}>()

/** What was chosen; until then cells show enough to be recognised. */
const chosenZoom = ref<number | null>(null)
const headWidth = 188
const headHeight = 44
const mostAhead = 48
const body = ref<HTMLElement>()
const hovered = ref<{ row: number; column: number } | null>(null)
const active = ref({ row: 0, column: 0 })

const spots = computed(() => props.spots.spots.value)
const takes = computed(() => props.takes.takes.value.filter((take) => take.plan))
const beside = useBeside(() => props.picture)
/** The picture's own takes, then those of the one beside it. */
const shown = computed<RowTake[]>(() => [...takes.value.map((take) => ({ take, scale: 1 })), ...beside.takes.value])
const { scrolled, measure } = useScrolled(body)

/** What cells share, beside the names of the rows and between the gaps. */
const room = computed(() => ({
  width: scrolled.value.width - headWidth - 4 * (spots.value.length + 1) - 20,
  height: scrolled.value.height - headHeight - 4 * (shown.value.length + 2),
}))
const least = computed(() => (size.value === 'full' ? 204 : 124))
const cell = computed(() => cellSize(room.value, spots.value.length, shown.value.length + 1, least.value))
const finest = computed(() => finestFineness(shown.value))
const zoom = computed({
  get: () => chosenZoom.value ?? startingZoom(cell.value.width, finest.value),
  set: (one) => (chosenZoom.value = one),
})
/** Each zoom with what a cell shows at it, in pixels of the source. */
const zoomsShown = computed(() =>
  zooms.map((one) => ({ zoom: one, across: Math.round(sourceAcross(cell.value.width, one, finest.value)) })),
)
const rows = computed(() => rowsOf(shown.value, spots.value, zoom.value, cell.value))

const { cells, again } = useCells(() =>
  size.value === 'folded' ? [] : wantedOf(rows.value, cell.value, scrolled.value, hovered.value ?? active.value),
)

// Before the board is opened, its cells are made while nothing else is asked for.
useAhead(2, () =>
  size.value === 'folded'
    ? wantedOf(rows.value, cell.value, scrolled.value, active.value)
        .sort((a, b) => a.urgency - b.urgency)
        .slice(0, mostAhead)
        .map(({ address }) => address)
    : [],
)

const { on: blinking, second: swapped, toggle: blink } = useBeat(500)
/** The row the active one blinks with: the one above it, and for the first one the one below. */
const partner = computed(() => (active.value.row > 0 ? active.value.row - 1 : 1))
const blinkText = computed(() =>
  blinking.value ? `${rowName(rows.value[active.value.row])} and ${rowName(rows.value[partner.value])}` : '',
)

function shownCell(y: number, x: number): Cell {
  const row = swapped.value && y === active.value.row ? partner.value : y
  return (rows.value[row] ?? rows.value[y]!).cells[x]!
}

function moveTo(row: number, column: number) {
  active.value = {
    row: Math.max(0, Math.min(rows.value.length - 1, row)),
    column: Math.max(0, Math.min(spots.value.length - 1, column)),
  }
  void nextTick(() =>
    body.value?.querySelector('[data-active=true]')?.scrollIntoView({ block: 'nearest', inline: 'nearest' }),
  )
}
function pick(row: number, column: number) {
  moveTo(row, column)
  body.value?.focus()
}
function look(y: number, x: number) {
  moveTo(y, x)
  const row = rows.value[y]
  const spot = spots.value[x]
  // Another picture's take is no part of this view.
  const id = (!row?.from && row?.take?.id) || props.leadId
  if (row && spot && id) emit('look', id, spot, zoom.value)
}
function mark(value: Mark) {
  const row = rows.value[active.value.row]
  const found = row?.cells[active.value.column]
  if (row?.take && found)
    props.spots.mark.mutate({ take: row.take.id, spot: found.spot.id, value: found.mark === value ? '' : value })
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
    ...Object.fromEntries(zooms.map((one, index) => [String(index + 1), () => (zoom.value = one)])),
    Delete: () => spots.value[column] && props.spots.remove.mutate(spots.value[column]),
  }
  const act = acts[event.key]
  if (!act || (event.target instanceof HTMLButtonElement && event.key === 'Enter')) return
  event.preventDefault()
  event.stopPropagation()
  act()
}

function bring(file: File) {
  props.takes.bring.mutate(file, { onSuccess: (take) => emit('show', take.id) })
}
/** A file let go over the board is a take made elsewhere; anything else that is dragged is one of the rows. */
function fileDropped(event: DragEvent) {
  const file = event.dataTransfer?.files[0]
  if (file) bring(file)
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
</script>

<template>
  <section
    class="board"
    :class="size"
    aria-label="Check board"
    :data-missing="missing"
    @keydown="pressed"
    @dragover.prevent
    @drop.prevent="fileDropped"
  >
    <BoardBar
      v-model:size="size"
      v-model:zoom="zoom"
      :takes="props.takes"
      :spots="props.spots"
      :lead-id="leadId"
      :picture="picture"
      :count="takes.length"
      :zooms="zoomsShown"
      :blinking="blinkText"
      :missing="missing"
      @look="leadId && emit('look', leadId, $event, zoom)"
      @bring="bring"
      @rehearse="emit('rehearse')"
    />
    <div v-if="size !== 'folded'" ref="body" class="body" tabindex="0" aria-label="Cells" @scroll.passive="measure">
      <p v-if="props.spots.known.value && !spots.length" class="empty">
        Pin the places that must look right: double-click them in the picture, or press <kbd>K</kbd> with the pointer
        there. Each becomes a column here, every take a row, and every cell shows the file's own pixels.
      </p>
      <table v-else :style="{ '--cell-width': `${cell.width}px`, '--cell-height': `${cell.height}px` }">
        <thead>
          <tr>
            <th class="head" />
            <SpotHead
              v-for="(spot, x) in spots"
              :key="spot.id"
              :spot="spot"
              :number="x + 1"
              @rename="props.spots.alter.mutate({ id: spot.id, name: $event })"
              @remove="props.spots.remove.mutate(spot)"
            />
          </tr>
        </thead>
        <tbody>
          <tr
            v-for="(row, y) in rows"
            :key="row.take?.id ?? 'original'"
            :class="{ lead: row.take?.id === leadId && row.take }"
          >
            <th class="head" scope="row">
              <RouterLink
                v-if="row.take && row.from"
                class="other"
                :to="{ name: 'bench', params: { jobId: picture.job_id, pictureId: row.take.picture_id } }"
                :title="`Open ${row.from}`"
                ><strong>{{ row.take.name }}</strong
                ><span class="quiet small">{{ row.from }}</span></RouterLink
              >
              <BoardRowHead
                v-else-if="row.take"
                :take="row.take"
                :lead="row.take.id === leadId"
                :alone="takes.length === 1"
                @show="emit('show', row.take.id)"
                @choose="choose(row.take)"
                @alter="(told) => props.takes.alter.mutate({ id: row.take!.id, ...told })"
                @duplicate="emit('duplicate', row.take)"
                @shift="shift(row.take, $event)"
                @discard="props.takes.discard.mutate(row.take)"
                @drop-on="drop($event, row.take.id)"
              />
              <span v-else class="original">original<span class="quiet small">plainly enlarged</span></span>
            </th>
            <td
              v-for="(_, x) in row.cells"
              :key="spots[x]!.id"
              :data-active="active.row === y && active.column === x"
              :class="{ active: active.row === y && active.column === x }"
              @pointerenter="hovered = { row: y, column: x }"
              @pointerleave="hovered = null"
              @click="pick(y, x)"
              @dblclick="look(y, x)"
            >
              <CellPicture
                :cut="shownCell(y, x).cut"
                :state="shownCell(y, x).address ? cells.get(shownCell(y, x).address!) : undefined"
                :meanwhile="cells.get(rows[0]!.cells[x]!.address ?? '')?.source"
                :mark="row.cells[x]!.mark"
                :label="`${rowName(row)}, ${spots[x]!.name}`"
                @again="again(shownCell(y, x).address!)"
              />
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
.head {
  position: sticky;
  left: 0;
  z-index: 2;
  width: 188px;
  min-width: 188px;
  background: rgb(var(--v-theme-surface));
  vertical-align: top;
}
.other {
  color: inherit;
  overflow-wrap: anywhere;
}
.original,
.other {
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
