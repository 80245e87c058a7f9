<script setup lang="ts">
import { mdiCheckBold, mdiCloseThick } from '@mdi/js'
import { computed } from 'vue'

import type { Cut } from './cell'
import type { CellState } from './useCells'
import type { Mark } from './useSpots'

const props = defineProps<{
  cut: Cut | null
  state?: CellState
  /** A cheap version of the same place, to look at until the cell is there. */
  meanwhile?: string
  mark: Mark
  label: string
}>()
defineEmits<{ again: [] }>()

const there = computed(() => props.state?.state === 'there')
const side = computed(() => {
  if (!props.cut) return {}
  return { width: `${props.cut.width * props.cut.magnified}px`, height: `${props.cut.height * props.cut.magnified}px` }
})
</script>

<template>
  <div class="cell" role="img" :aria-label="label" :data-state="cut ? (state?.state ?? 'waiting') : 'outside'">
    <span v-if="!cut" class="quiet small">cropped off</span>
    <img
      v-else-if="there"
      :src="state!.source"
      :style="side"
      :class="{ sharp: cut.magnified >= 1 }"
      alt=""
      draggable="false"
    />
    <template v-else>
      <img v-if="meanwhile" :src="meanwhile" :style="side" class="meanwhile" alt="" draggable="false" />
      <button v-if="state?.state === 'failed'" class="told small" :title="state.message" @click.stop="$emit('again')">
        not computed: try again
      </button>
      <span v-else class="told small">{{ state?.state === 'computing' ? 'computing' : 'waiting' }}</span>
    </template>
    <span v-if="mark" class="mark" :class="mark" :title="mark"
      ><v-icon :icon="mark === 'good' ? mdiCheckBold : mdiCloseThick" size="14"
    /></span>
  </div>
</template>

<style scoped>
.cell {
  position: relative;
  display: grid;
  place-items: center;
  width: var(--cell-width);
  height: var(--cell-height);
  overflow: hidden;
  background: rgb(var(--v-theme-background));
}
.sharp {
  image-rendering: pixelated;
}
.meanwhile {
  opacity: 0.72;
}
.told {
  position: absolute;
  left: 4px;
  bottom: 4px;
  padding: 0 6px;
  background: rgba(var(--v-theme-surface), 0.86);
  border-radius: 3px;
}
button.told {
  text-decoration: underline;
  cursor: pointer;
}
.mark {
  position: absolute;
  right: 4px;
  top: 4px;
  display: grid;
  place-items: center;
  width: 20px;
  height: 20px;
  color: #fff;
  background: rgba(0, 0, 0, 0.72);
  border-radius: 3px;
}
</style>
