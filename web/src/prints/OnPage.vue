<script setup lang="ts">
import { computed, nextTick, onBeforeUnmount, reactive, ref, watch } from 'vue'

import type { Plan } from '../viewer/layer'
import { number } from '../parts/format'
import TiledPicture from './TiledPicture.vue'
import { pages, type PageName } from './pages'

const open = defineModel<boolean>({ required: true })
const props = defineProps<{ takeId: string; plan: Plan; ppi: number }>()

const page = ref<PageName>('a4')
const turned = ref(false)
const own = reactive({ width: '21', height: '29.7' })
/** Width of the picture on the page and where its upper left corner lies, in millimetres. */
const placed = reactive({ width: 0, x: 0, y: 0 })
const room = ref<HTMLElement>()
const free = ref({ width: 800, height: 600 })

const number0 = (text: string) => Number(text.replace(',', '.')) * 10 || 0
const sheet = computed(() => {
  const known = pages.find((one) => one.value === page.value)
  const [width, height] = known
    ? [known.width, known.height]
    : [Math.max(20, number0(own.width)), Math.max(20, number0(own.height))]
  return turned.value ? { width: height, height: width } : { width, height }
})
const scale = computed(() =>
  Math.min((free.value.width - 48) / sheet.value.width, (free.value.height - 48) / sheet.value.height),
)
const high = computed(() => (placed.width * props.plan.size.height) / props.plan.size.width)
const printed = computed(() => (props.plan.size.width / props.ppi) * 25.4)
const has = computed(() => (props.plan.size.width / placed.width) * 25.4)

/** As large as it is printed, or as fits, in the middle of the page's width and a little above its middle. */
function place(
  width = Math.min(
    printed.value,
    sheet.value.width * 0.8,
    (sheet.value.height * 0.8 * props.plan.size.width) / props.plan.size.height,
  ),
) {
  placed.width = width
  placed.x = (sheet.value.width - width) / 2
  placed.y = Math.max(0, (sheet.value.height - high.value) * 0.45)
}
watch(sheet, () => place())

const measure = () => {
  if (room.value) free.value = { width: room.value.clientWidth, height: room.value.clientHeight }
}
const watching = new ResizeObserver(measure)
onBeforeUnmount(() => watching.disconnect())
watch(open, async (now) => {
  if (!now) return
  place()
  await nextTick()
  measure()
  if (room.value) watching.observe(room.value)
})

function drag(event: PointerEvent) {
  const held = event.currentTarget as HTMLElement
  const [x, y] = [placed.x - event.clientX / scale.value, placed.y - event.clientY / scale.value]
  held.setPointerCapture(event.pointerId)
  const move = (now: PointerEvent) =>
    Object.assign(placed, { x: x + now.clientX / scale.value, y: y + now.clientY / scale.value })
  held.addEventListener('pointermove', move)
  held.addEventListener('pointerup', () => held.removeEventListener('pointermove', move), { once: true })
}
function arrow(event: KeyboardEvent) {
  const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key]
  if (!way) return
  event.preventDefault()
  placed.x += way[0]! * (event.shiftKey ? 10 : 1)
  placed.y += way[1]! * (event.shiftKey ? 10 : 1)
}
const items = [
  ...pages.map(({ value, title }) => ({ value: value as PageName, title })),
  { value: 'own' as PageName, title: 'a size of your own' },
]
</script>

<template>
  <v-dialog v-model="open" fullscreen transition="fade-transition" aria-label="On a page or slide">
    <v-card class="layout">
      <header>
        <h2>On a page</h2>
        <v-select v-model="page" label="Page" :items="items" class="choice" />
        <template v-if="page === 'own'">
          <v-text-field v-model="own.width" label="Width, cm" class="side" inputmode="decimal" />
          <v-text-field v-model="own.height" label="Height, cm" class="side" inputmode="decimal" />
        </template>
        <v-btn variant="outlined" :aria-pressed="turned" @click="turned = !turned">Turn</v-btn>
        <v-text-field
          label="Picture’s width, cm"
          class="side"
          inputmode="decimal"
          :model-value="number(placed.width / 10, 1)"
          @change="place(Math.max(5, number0(($event.target as HTMLInputElement).value)))"
        />
        <v-btn variant="outlined" title="As large as it is printed" @click="place(printed)">Print size</v-btn>
        <v-btn variant="outlined" @click="place(sheet.width)">Page’s width</v-btn>
        <v-spacer />
        <span class="small quiet" role="status"
          >{{ number(has, 0) }} ppi on {{ number(sheet.width / 10, 1) }} × {{ number(sheet.height / 10, 1) }} cm</span
        >
        <v-btn color="primary" variant="flat" @click="open = false">Back</v-btn>
      </header>
      <div ref="room" class="room">
        <div
          class="sheet"
          aria-label="Page"
          :style="{ width: `${sheet.width * scale}px`, height: `${sheet.height * scale}px` }"
        >
          <div
            class="placed"
            role="img"
            tabindex="0"
            aria-label="Picture on the page"
            title="Drag it, or move it by the arrow keys"
            :style="{ left: `${placed.x * scale}px`, top: `${placed.y * scale}px` }"
            @pointerdown.prevent="drag"
            @keydown="arrow"
          >
            <TiledPicture v-if="open && placed.width" :take-id="takeId" :plan="plan" :width="placed.width * scale" />
          </div>
        </div>
      </div>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.layout {
  display: grid !important;
  grid-template-rows: auto minmax(0, 1fr);
}
header {
  display: flex;
  align-items: center;
  gap: 10px;
  padding: 10px 16px;
  border-bottom: 1px solid rgba(var(--v-theme-on-surface), 0.14);
}
.choice {
  flex: 0 0 180px;
}
.side {
  flex: 0 0 150px;
}
.room {
  display: grid;
  place-items: center;
  overflow: hidden;
  background: rgb(var(--v-theme-background));
}
.sheet {
  position: relative;
  overflow: hidden;
  background: #fff;
  box-shadow: 0 2px 18px rgba(0, 0, 0, 0.4);
}
.placed {
  position: absolute;
  cursor: move;
  touch-action: none;
}
</style>
