<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import { answer, server, type Schemas } from '../api/client'
import type { Plan } from '../viewer/layer'
import type { Take } from '../takes/useTake'

const props = defineProps<{
  lead: Take
  plan: Plan
  /** The other takes that panes show. */
  others: Take[]
  /** In pixels of the leading take's result. */
  place: { x: number; y: number } | null
  exact: boolean
}>()

type Pixel = Schemas['PixelOut']
const read = ref<{ name: string; pixel: Pixel }[]>([])
let stop: AbortController | undefined
let timer: ReturnType<typeof setTimeout> | undefined

/** The same place in another take's result, whatever its factor and crop. */
function placeIn(take: Take, place: { x: number; y: number }) {
  const [lead, own] = [props.plan, take.plan!]
  const along = (x: number, axis: 'x' | 'y', side: 'width' | 'height') => {
    const canvas = lead.crop[axis] + (x / lead.size[side]) * lead.crop[side]
    return Math.floor(((canvas - own.crop[axis]) / own.crop[side]) * own.size[side])
  }
  return { x: along(place.x, 'x', 'width'), y: along(place.y, 'y', 'height') }
}

watch(
  () => [props.place, props.exact, props.plan.chain, props.others.map((take) => take.plan?.chain).join()] as const,
  () => {
    clearTimeout(timer)
    stop?.abort()
    if (!props.place || !props.exact) {
      read.value = []
      return
    }
    const place = props.place
    timer = setTimeout(async () => {
      stop = new AbortController()
      const { signal } = stop
      try {
        read.value = await Promise.all(
          [props.lead, ...props.others].map(async (take) => {
            const { x, y } = placeIn(take.id === props.lead.id ? { ...take, plan: props.plan } : take, place)
            return {
              name: take.name,
              pixel: await answer(
                server.GET('/api/takes/{take_id}/pixel', {
                  params: { path: { take_id: take.id }, query: { x, y } },
                  signal,
                }),
              ),
            }
          }),
        )
      } catch {
        // moved on, or the take has changed: the next place asks again
      }
    }, 50)
  },
)

const source = computed(() => read.value[0]?.pixel)
const values = (samples: number[]) => samples.map((sample) => String(sample)).join(' ')
</script>

<template>
  <div v-if="place" class="readout small" aria-label="Pixel">
    <span>{{ Math.floor(place.x) }}, {{ Math.floor(place.y) }}</span>
    <template v-if="source">
      <span v-for="one in read" :key="one.name"
        >{{ read.length > 1 ? one.name : 'result' }} {{ values(one.pixel.result) }} <i>16 bit</i></span
      >
      <span
        >source {{ source.source_x }}, {{ source.source_y }}: {{ values(source.source) }}
        <i>{{ source.source_bits }} bit</i></span
      >
    </template>
    <span v-else-if="!exact"><i>values from 100 % on</i></span>
  </div>
</template>

<style scoped>
.readout {
  position: absolute;
  left: 10px;
  bottom: 10px;
  display: flex;
  flex-wrap: wrap;
  gap: 2px 16px;
  max-width: calc(100% - 250px);
  padding: 2px 8px;
  background: rgba(var(--v-theme-surface), 0.9);
  border-radius: 3px;
  pointer-events: none;
}
i {
  opacity: 0.72;
}
</style>
