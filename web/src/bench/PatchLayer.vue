<script setup lang="ts">
import { computed, ref } from 'vue'

import { elsewhere, ghostOf, movedTo, patching, refuse, takenFrom, wanted, type Patch } from '../steps/patches'
import type { View } from '../viewer/content'
import type { Plan } from '../viewer/layer'
import { usePlaces, type Point } from '../viewer/usePlaces'

/** Over the picture: what was found, to be refused by a click; the chosen patch, and where it takes from, to be dragged. */
const props = defineProps<{ plan: Plan; view: View; patches: Patch[] }>()
const emit = defineEmits<{ change: [place: number, patch: Patch] }>()

const holder = ref<HTMLElement>()
const { onScreen, toSource, onPane, screenScale, sourceScale } = usePlaces(holder, props)
/** CSS pixels for one of the source. */
const scale = computed(() => screenScale.value / sourceScale.value)

const path = (points: Point[]) => points.map((point) => onPane(point).join(',')).join(' ')
/** A single place is drawn as a short line, whose round ends make a disc. */
const drawn = (points: Point[]) =>
  path(points.length > 1 ? points : [points[0]!, [points[0]![0] + 0.4, points[0]![1] + 0.4]])
const wide = (patch: Patch, times = 1) => Math.max(6, (patch.stroke.size ?? 1) * scale.value * times)

const proposals = computed(() => {
  const now = new Set(wanted())
  return (patching.found ?? []).flatMap((one, place) =>
    100 * one.sure >= patching.least
      ? [
          {
            place,
            points: drawn(one.patch.stroke.points as Point[]),
            width: wide(one.patch) + 8,
            wanted: now.has(place),
          },
        ]
      : [],
  )
})

/** The chosen patch while it is dragged, else as it is. */
const dragged = ref<Patch | null>(null)
const chosen = computed(
  () => dragged.value ?? (patching.chosen === null ? null : (props.patches[patching.chosen] ?? null)),
)
const ghost = computed(() => (chosen.value && elsewhere(chosen.value) ? ghostOf(chosen.value) : null))

function drag(event: PointerEvent, moved: (patch: Patch, to: Point) => Patch) {
  const handle = event.currentTarget as SVGElement
  const patch = chosen.value
  const place = patching.chosen
  if (!patch || place === null || event.button !== 0) return
  handle.setPointerCapture(event.pointerId)
  const move = (now: PointerEvent) => (dragged.value = moved(patch, toSource(onScreen(now))))
  const end = () => {
    handle.removeEventListener('pointermove', move)
    if (dragged.value) emit('change', place, dragged.value)
    dragged.value = null
  }
  handle.addEventListener('pointermove', move)
  handle.addEventListener('pointerup', end, { once: true })
}
</script>

<template>
  <div ref="holder" class="patches">
    <svg width="100%" height="100%" fill="none" stroke-linecap="round" stroke-linejoin="round">
      <g
        v-for="one in proposals"
        :key="`found ${one.place}`"
        class="proposal"
        role="button"
        tabindex="0"
        :aria-pressed="one.wanted"
        :aria-label="`Found place ${one.place + 1}`"
        @click="refuse(one.place)"
        @keydown.enter.stop="refuse(one.place)"
      >
        <polyline :points="one.points" :stroke-width="one.width" class="reach" />
        <polyline :points="one.points" :stroke-width="one.width" :class="one.wanted ? 'wanted' : 'refused'" />
      </g>
      <template v-if="chosen">
        <polyline
          :points="drawn(chosen.stroke.points as Point[])"
          :stroke-width="wide(chosen)"
          class="own"
          aria-label="The chosen patch"
          @pointerdown.prevent="drag($event, movedTo)"
        />
        <template v-if="ghost">
          <line
            :x1="onPane(chosen.stroke.points[0] as Point)[0]"
            :y1="onPane(chosen.stroke.points[0] as Point)[1]"
            :x2="onPane(ghost[0]!)[0]"
            :y2="onPane(ghost[0]!)[1]"
            class="way"
          />
          <polyline
            :points="drawn(ghost)"
            :stroke-width="wide(chosen, 1 / (chosen.scale ?? 1))"
            class="ghost"
            aria-label="Where the chosen patch takes from"
            @pointerdown.prevent="drag($event, takenFrom)"
          />
        </template>
      </template>
    </svg>
  </div>
</template>

<style scoped>
.patches {
  position: absolute;
  inset: 0;
  overflow: hidden;
  pointer-events: none;
}
.proposal,
.own,
.ghost {
  pointer-events: stroke;
  cursor: pointer;
}
.reach {
  stroke: transparent;
}
.wanted {
  stroke: rgba(255, 214, 64, 0.5);
}
.refused {
  stroke: rgba(0, 0, 0, 0.22);
}
.own {
  stroke: rgba(255, 255, 255, 0.38);
  cursor: move;
}
.ghost {
  stroke: rgba(64, 200, 255, 0.42);
  cursor: move;
}
.way {
  stroke: #fff;
  stroke-width: 1.5;
  stroke-dasharray: 4 3;
  filter: drop-shadow(0 0 1px #000);
}
</style>
