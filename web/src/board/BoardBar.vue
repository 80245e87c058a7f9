<script setup lang="ts">
import {
  mdiArrowExpandVertical,
  mdiChevronDown,
  mdiChevronUp,
  mdiFileCompare,
  mdiMapMarkerPlusOutline,
  mdiTestTube,
} from '@mdi/js'
import { ref } from 'vue'

import type { Picture } from '../pictures/queries'
import type { useTakes } from '../takes/useTakes'
import BesideChoice from './BesideChoice.vue'
import TryEngines from './TryEngines.vue'
import type { BoardSize } from './boardSize'
import type { Spot, useSpots } from './useSpots'

/** What stands above the board: fold it, pin and propose spots, bring and try takes, zoom. */
defineProps<{
  takes: ReturnType<typeof useTakes>
  spots: ReturnType<typeof useSpots>
  leadId?: string
  picture: Picture
  /** How many takes can be shown. */
  count: number
  /** Each with the pixels of the source that a cell shows across at it. */
  zooms: { zoom: number; across: number }[]
  /** What blinks, in words; empty if nothing does. */
  blinking: string
  /** Cells that are not there yet. */
  missing: number
}>()
const size = defineModel<BoardSize>('size', { required: true })
const zoom = defineModel<number>('zoom', { required: true })
const emit = defineEmits<{ look: [spot: Spot]; bring: [file: File]; rehearse: [] }>()

const chooser = ref<HTMLInputElement>()
function chosen(event: Event) {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  if (file) emit('bring', file)
  input.value = ''
}
</script>

<template>
  <header class="bar small">
    <button
      class="fold"
      :aria-expanded="size !== 'folded'"
      title="Fold or open the board (V)"
      @click="size = size === 'folded' ? 'open' : 'folded'"
    >
      <v-icon :icon="size === 'folded' ? mdiChevronUp : mdiChevronDown" size="18" /> <strong>Check board</strong>
    </button>
    <template v-if="size === 'folded'">
      <button
        v-for="(spot, x) in spots.spots.value"
        :key="spot.id"
        class="jump"
        :title="`Look at ${spot.name}`"
        @click="leadId && emit('look', spot)"
      >
        <b>{{ x + 1 }}</b> {{ spot.name }}
      </button>
      <span v-if="!spots.spots.value.length" class="quiet">no check spots yet</span>
    </template>
    <template v-else>
      <v-btn
        size="small"
        :prepend-icon="mdiMapMarkerPlusOutline"
        :loading="spots.propose.isPending.value"
        title="Pin the places that tell most, each with its reason"
        @click="spots.propose.mutate()"
        >Propose spots</v-btn
      >
      <v-btn
        size="small"
        :prepend-icon="mdiFileCompare"
        :loading="takes.bring.isPending.value"
        title="A result made elsewhere becomes a row, laid on this picture, to be compared"
        @click="chooser?.click()"
        >Bring a take</v-btn
      >
      <input
        ref="chooser"
        type="file"
        hidden
        accept=".jpg,.jpeg,.png,.tif,.tiff,.webp,image/*"
        aria-label="File of a take made elsewhere"
        @change="chosen"
      />
      <BesideChoice :picture="picture" />
      <TryEngines v-if="leadId" :try-engines="count ? takes.tryEngines : undefined" :take-id="leadId" />
      <v-btn
        size="small"
        :prepend-icon="mdiTestTube"
        title="Try every chain that might suit this picture on worn copies of itself"
        @click="emit('rehearse')"
        >Rehearse</v-btn
      >
      <span class="quiet hint"
        ><kbd>← → ↑ ↓</kbd> <kbd>Enter</kbd> look <kbd>+</kbd> <kbd>−</kbd> mark <kbd>Space</kbd> blink
        <kbd>C</kbd> choose</span
      >
    </template>
    <v-spacer />
    <span v-if="blinking" role="status">blinking {{ blinking }}</span>
    <span v-else-if="takes.bring.isPending.value" role="status">{{
      takes.sent.value < 1 ? `bringing it in, ${Math.round(takes.sent.value * 100)} %` : 'laying it on the picture'
    }}</span>
    <span v-else-if="size !== 'folded' && missing" class="quiet" role="status"
      >computing {{ missing }} {{ missing === 1 ? 'cell' : 'cells' }}</span
    >
    <div v-if="size !== 'folded'" class="zooms" role="group" aria-label="Board zoom">
      <button
        v-for="(one, index) in zooms"
        :key="one.zoom"
        :aria-pressed="zoom === one.zoom"
        :aria-label="`${one.across} px of the source, ${one.zoom * 100} %`"
        :title="`Cells show ${one.across} px of the source across, at ${one.zoom * 100} % (${index + 1})`"
        @click="zoom = one.zoom"
      >
        {{ one.across }} px <span class="quiet">{{ one.zoom * 100 }} %</span>
      </button>
    </div>
    <v-btn
      :icon="mdiArrowExpandVertical"
      size="x-small"
      :aria-label="size === 'full' ? 'Board beside the picture' : 'Board over the whole view'"
      title="Whole view (V)"
      :active="size === 'full'"
      @click="size = size === 'full' ? 'open' : 'full'"
    />
  </header>
</template>

<style scoped>
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
@media (max-width: 1700px) {
  .hint {
    display: none;
  }
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
</style>
