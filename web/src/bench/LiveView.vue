<script setup lang="ts">
import { computed, onScopeDispose, ref, watch } from 'vue'

import { picture } from '../api/client'
import type { Take } from '../takes/useTake'
import type { Plan } from '../viewer/layer'
import type { View } from '../viewer/content'
import { usePlaces } from '../viewer/usePlaces'
import { LiveSide } from './liveSide'

/**
 * Follows a control that is dragged: the whole result, small, laid over the picture while it is seen from afar; until the pixels
 * of what it was let go at are there.
 */
const props = defineProps<{ take: Take; plan: Plan; view: View; moving: boolean; behind: boolean; stripes: boolean }>()

/** Seen this near, a small picture would only blur what is there. */
const nearest = 0.7
const holder = ref<HTMLElement>()
const { seen } = usePlaces(holder, props)
const source = ref('')
let asking: AbortController | null = null
/** Steps that have come while an answer was on its way. */
let next: Take['steps'] | null = null

const side = new LiveSide()

const followed = computed(() => props.moving && props.view.scale < nearest)

async function ask(steps: Take['steps']) {
  if (asking) {
    next = steps
    return
  }
  const mine = (asking = new AbortController())
  const asked = performance.now()
  try {
    const body = { steps, side: side.now, stripes: props.stripes }
    const blob = await picture(`/api/takes/${props.take.id}/live`, body, mine.signal)
    if (mine.signal.aborted) return
    side.adapt(performance.now() - asked)
    URL.revokeObjectURL(source.value)
    source.value = URL.createObjectURL(blob)
  } catch {
    // What cannot be shown in passing is told when it is saved.
  } finally {
    if (asking === mine) asking = null
  }
  const waiting = next
  next = null
  if (waiting && followed.value) void ask(waiting)
}
function stop() {
  asking?.abort()
  asking = next = null
  URL.revokeObjectURL(source.value)
  source.value = ''
}

watch(
  () => props.take.steps,
  (steps) => followed.value && void ask(steps),
)
// Let go, the last picture stays until the new pixels are there.
watch([() => props.moving, () => props.behind, () => props.plan.chain], ([moving, behind, chain], [, , before]) => {
  if (!moving && !behind && (chain === before || source.value)) settle()
})
let settled: ReturnType<typeof setTimeout> | undefined
function settle() {
  clearTimeout(settled)
  settled = setTimeout(() => !props.moving && !props.behind && stop(), 350)
}
watch([() => props.take.id, () => props.view.scale], stop)
onScopeDispose(() => {
  clearTimeout(settled)
  stop()
})

/** Where the result lies on the pane. */
const place = computed(() => {
  const { width, height } = props.plan.size
  const [left, top] = seen([0, 0])
  const [right, bottom] = seen([width, height])
  return { left: `${left}px`, top: `${top}px`, width: `${right - left}px`, height: `${bottom - top}px` }
})
</script>

<template>
  <div ref="holder" class="live" aria-hidden="true">
    <img v-if="source" :src="source" :style="place" alt="" />
  </div>
</template>

<style scoped>
.live {
  position: absolute;
  inset: 0;
  overflow: hidden;
  pointer-events: none;
}
img {
  position: absolute;
}
</style>
