<script setup lang="ts">
import { mdiCardsOutline, mdiContentCopy, mdiRedoVariant, mdiUndoVariant } from '@mdi/js'

import { useKeys } from '../parts/useKeys'
import { useNotice } from '../parts/useNotice'
import { useCopiedSteps } from '../takes/useCopiedSteps'
import { useBench } from './useBench'

const { address, picture, take, takes, unsaved, open, show, undo, redo, begin } = useBench()
const { copied, copy, paste } = useCopiedSteps()
const notice = useNotice()

function duplicate() {
  if (take.value && !take.value.outside) begin.mutate(take.value.steps)
}
function copySteps() {
  if (take.value && !take.value.outside)
    copy({ takeId: take.value.id, name: `${take.value.name} of ${picture.value?.name}` })
}
function pasteSteps() {
  if (!copied.value) return notice.say('No steps are copied yet: open a take that has them and press Ctrl C.')
  paste.mutate([address.pictureId], { onSuccess: (made) => made[0] && show(made[0].take_id) })
}
function nextTake() {
  const place = takes.value.findIndex((one) => one.id === take.value?.id)
  const next = takes.value[(place + 1) % takes.value.length]
  if (next) show(next.id)
}
useKeys(() => [
  { key: 't', shown: 'T', does: 'next take', group: 'takes and check spots', run: nextTake },
  { key: 'alt+1', shown: 'Alt 1 … 4', does: 'another take in that pane', group: 'compare', run: nextTake },
  { key: 'n', shown: 'N', does: 'new take like this one', group: 'takes and check spots', run: duplicate },
  { key: 'ctrl+c', shown: 'Ctrl C', does: 'copy the steps', group: 'steps', run: copySteps },
  { key: 'ctrl+v', shown: 'Ctrl V', does: 'paste steps as a new take', group: 'steps', run: pasteSteps },
  { key: 'ctrl+z', shown: 'Ctrl Z', does: 'undo', group: 'steps', run: undo },
  { key: 'ctrl+shift+z', shown: 'Ctrl Shift Z', does: 'redo', group: 'steps', run: redo },
])
</script>

<template>
  <div class="takes">
    <v-menu>
      <template #activator="{ props: opener }">
        <v-btn v-bind="opener" class="which" variant="outlined" size="small" aria-label="Take" title="Next take (T)"
          >take {{ take?.name }} ▾</v-btn
        >
      </template>
      <v-list density="compact" min-width="140">
        <v-list-item
          v-for="one in takes"
          :key="one.id"
          :title="`take ${one.name}`"
          :active="one.id === take?.id"
          @click="show(one.id)"
        />
      </v-list>
    </v-menu>
    <v-btn
      :icon="mdiContentCopy"
      size="x-small"
      aria-label="New take like this one"
      title="New take like this one (N)"
      :disabled="Boolean(take?.outside)"
      @click="duplicate"
    />
    <v-menu>
      <template #activator="{ props: opener }">
        <v-btn
          v-bind="opener"
          :icon="mdiCardsOutline"
          size="x-small"
          aria-label="Cards"
          title="Save these steps as a card, or use one"
        />
      </template>
      <v-list density="compact">
        <v-list-item title="Copy these steps (Ctrl C)" :disabled="Boolean(take?.outside)" @click="copySteps" />
        <v-list-item
          :title="copied ? `Paste the steps of ${copied.name} (Ctrl V)` : 'Paste steps (Ctrl V)'"
          :disabled="!copied"
          @click="pasteSteps"
        />
        <v-list-item title="Save as a card" :disabled="Boolean(take?.outside)" @click="open.savingCard = true" />
        <v-list-item title="Use a card" @click="open.usingCard = true" />
      </v-list>
    </v-menu>
    <v-spacer />
    <span class="small quiet saved" role="status">{{ unsaved ? 'saving' : 'saved' }}</span>
    <v-btn
      :icon="mdiUndoVariant"
      size="x-small"
      aria-label="Undo"
      title="Undo (Ctrl Z)"
      :disabled="!take?.can_undo"
      @click="undo"
    />
    <v-btn
      :icon="mdiRedoVariant"
      size="x-small"
      aria-label="Redo"
      title="Redo (Ctrl Shift Z)"
      :disabled="!take?.can_redo"
      @click="redo"
    />
  </div>
</template>

<style scoped>
.takes {
  display: flex;
  align-items: center;
  gap: 4px;
  padding: 10px 10px 4px 12px;
}
.saved {
  padding-right: 6px;
}
/* Long names give way, so that what stands beside them stays whole. */
.which {
  flex: 0 1 auto;
  min-width: 0;
  max-width: 122px;
}
.which :deep(.v-btn__content) {
  display: block;
  overflow: hidden;
  text-overflow: ellipsis;
}
</style>
