<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'

import type { Schemas } from '../api/client'
import Pane, { type View } from './Pane.vue'
import PixelReadout from './PixelReadout.vue'

export type Comparing = 'one' | 'divider' | 'sides'

const props = defineProps<{
  takeId: string
  plan: NonNullable<Schemas['TakeOut']['plan']>
  comparing: Comparing
  holding: boolean
}>()
const zoom = defineModel<number>('zoom', { required: true })

const left = ref<InstanceType<typeof Pane>>()
const right = ref<InstanceType<typeof Pane>>()
const area = ref<HTMLElement>()
const divider = ref(0.5)
const busy = ref(false)
const pointer = ref<{ x: number; y: number } | null>(null)

const result = computed(() => ({ chain: props.plan.chain, size: props.plan.size }))
const original = computed(() => ({ chain: props.plan.framed_chain, size: props.plan.framed }))
const showing = computed(() => (props.holding ? 'original' : props.comparing === 'divider' ? 'divider' : 'result'))
const exact = computed(() => zoom.value >= 0.999)

/** The result stands right of the divider and in the right-hand pane; the panes look at the same place. */
function moved(view: View, other?: InstanceType<typeof Pane>) {
  zoom.value = view.scale
  other?.setView(view)
}

watch(
  () => props.comparing,
  async (now, before) => {
    const view = (right.value ?? left.value)?.view()
    await nextTick()
    if (now !== 'sides' && before !== 'sides') return
    // Panes change width: look at the same place at the same scale once they are laid out.
    requestAnimationFrame(() => {
      if (view) for (const pane of [left.value, right.value]) pane?.setView(view)
    })
  },
)

function drag(event: PointerEvent) {
  const grip = event.currentTarget as HTMLElement
  grip.setPointerCapture(event.pointerId)
  const move = (now: PointerEvent) => {
    const box = area.value!.getBoundingClientRect()
    divider.value = Math.min(1, Math.max(0, (now.clientX - box.left) / box.width))
  }
  grip.addEventListener('pointermove', move)
  grip.addEventListener('pointerup', () => grip.removeEventListener('pointermove', move), { once: true })
}

const main = computed(() => right.value ?? left.value)
defineExpose({
  fit: () => main.value?.fit(),
  zoomTo: (to: number) => main.value?.zoomTo(to),
  stepZoom: (way: 1 | -1) => main.value?.stepZoom(way),
  panBy: (x: number, y: number) => main.value?.panBy(x, y),
})
</script>

<template>
  <div ref="area" class="area" :data-busy="busy" :data-showing="showing">
    <div class="half" :class="{ whole: comparing !== 'sides' }">
      <Pane ref="left" :take-id="takeId" :result="comparing === 'sides' ? original : result" :original="original"
        :reference="plan.size" :showing="comparing === 'sides' ? 'result' : showing" :divider="divider"
        @view="moved($event, right)" @computing="comparing !== 'sides' && (busy = $event)" @pointer="pointer = $event" />
      <span class="tag left">{{ comparing === 'sides' || showing !== 'result' ? 'original' : 'result' }}</span>
    </div>
    <div v-if="comparing === 'sides'" class="half">
      <Pane ref="right" :take-id="takeId" :result="result" :original="original" :reference="plan.size" :showing="showing" :divider="divider"
        @view="moved($event, left)" @computing="busy = $event" @pointer="pointer = $event" />
      <span class="tag left">{{ showing === 'original' ? 'original' : 'result' }}</span>
    </div>
    <div v-if="comparing === 'divider' && !holding" class="divider" :style="{ left: `${divider * 100}%` }" role="slider"
      aria-label="Divider" tabindex="0" :aria-valuenow="Math.round(divider * 100)" @pointerdown.prevent="drag"
      @keydown.left.prevent="divider = Math.max(0, divider - 0.02)" @keydown.right.prevent="divider = Math.min(1, divider + 0.02)">
      <span class="grip" />
    </div>
    <span v-if="comparing === 'divider' && !holding" class="tag right">result</span>
    <span class="state small" role="status">
      <v-progress-circular v-if="busy" indeterminate size="14" width="2" />
      {{ busy ? 'computing' : exact ? 'exact' : 'approximate, zoomed out' }}
    </span>
    <PixelReadout :take-id="takeId" :chain="plan.chain" :place="pointer" :exact="exact" />
  </div>
</template>

<style scoped>
.area {
  position: absolute;
  inset: 0;
  display: flex;
  gap: 2px;
  overflow: hidden;
}
.half {
  position: relative;
  flex: 1;
  overflow: hidden;
}
.tag,
.state {
  position: absolute;
  padding: 2px 8px;
  font-size: 13px;
  background: rgba(var(--v-theme-surface), 0.86);
  border-radius: 3px;
  pointer-events: none;
}
.tag {
  top: 10px;
}
.tag.left {
  left: 10px;
}
.tag.right {
  right: 10px;
}
.state {
  right: 10px;
  bottom: 10px;
  display: flex;
  gap: 6px;
  align-items: center;
}
.divider {
  position: absolute;
  top: 0;
  bottom: 0;
  width: 15px;
  margin-left: -7px;
  cursor: col-resize;
  touch-action: none;
}
.divider::before {
  content: '';
  position: absolute;
  left: 7px;
  top: 0;
  bottom: 0;
  width: 1px;
  background: #fff;
  box-shadow: 0 0 0 1px rgba(0, 0, 0, 0.5);
}
.grip {
  position: absolute;
  top: 50%;
  left: 1px;
  width: 13px;
  height: 13px;
  transform: rotate(45deg);
  background: #fff;
  border: 1px solid rgba(0, 0, 0, 0.6);
}
</style>
