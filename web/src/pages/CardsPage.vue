<script setup lang="ts">
import { mdiClose, mdiDownload, mdiUpload } from '@mdi/js'
import { ref } from 'vue'

import TopBar from '../shell/TopBar.vue'
import { cardLine } from '../cards/cardText'
import { useCards, type Card } from '../cards/useCards'

const { cards, isLoading, alter, remove, bring } = useCards()
const chooser = ref<HTMLInputElement>()

function chosen(event: Event) {
  const input = event.target as HTMLInputElement
  for (const file of input.files ?? []) bring.mutate(file)
  input.value = ''
}
function dropped(event: DragEvent) {
  for (const file of event.dataTransfer?.files ?? []) bring.mutate(file)
}
function rename(card: Card, event: Event) {
  const input = event.target as HTMLInputElement
  const name = input.value.trim()
  if (name && name !== card.name) alter.mutate({ id: card.id, name })
  else input.value = card.name
}
</script>

<template>
  <div class="d-flex flex-column" style="height: 100%" @dragover.prevent @drop.prevent="dropped">
    <TopBar>Cards</TopBar>
    <div class="page">
      <div class="page-inner">
        <div class="page-head">
          <div>
            <h1>Cards</h1>
            <p class="quiet">
              Steps worth doing again: saved from a take on the bench, used on any picture of a job, handed on as a
              file.
            </p>
          </div>
          <v-btn :prepend-icon="mdiUpload" :loading="bring.isPending.value" @click="chooser?.click()"
            >Bring a card's file</v-btn
          >
        </div>
        <input
          ref="chooser"
          type="file"
          multiple
          hidden
          accept=".json,application/json"
          aria-label="Card files"
          @change="chosen"
        />
        <div v-if="!isLoading && !cards.length" class="empty quiet">
          <p>No cards yet.</p>
          <p>
            Once a take is as you want it, open the menu beside it and choose “Save as a card”. The card can then be
            used on any picture, at any strength, and on many at once in “Deliver many”.
          </p>
          <p>Somebody gave you a card's file? Drop it anywhere on this page.</p>
        </div>
        <ul v-else class="lines" aria-label="Cards">
          <li v-for="card in cards" :key="card.id">
            <div class="text">
              <input
                class="name"
                :value="card.name"
                :aria-label="`Name of card ${card.name}`"
                maxlength="60"
                @change="rename(card, $event)"
                @keydown.enter="($event.target as HTMLInputElement).blur()"
              />
              <p class="small">{{ cardLine(card) }}</p>
              <input
                class="note small"
                :value="card.note"
                :aria-label="`Note on card ${card.name}`"
                placeholder="note"
                maxlength="2000"
                @change="alter.mutate({ id: card.id, note: ($event.target as HTMLInputElement).value })"
              />
            </div>
            <v-btn
              :icon="mdiDownload"
              size="small"
              :aria-label="`Export card ${card.name}`"
              title="Export as a file"
              :href="`/api/cards/${card.id}/file`"
              download
            />
            <v-btn
              :icon="mdiClose"
              size="small"
              :aria-label="`Put card ${card.name} away`"
              title="Put away"
              @click="remove.mutate(card)"
            />
          </li>
        </ul>
      </div>
    </div>
  </div>
</template>

<style scoped>
.lines li {
  display: flex;
  align-items: flex-start;
  gap: 4px;
  padding: 10px 8px;
}
.text {
  flex: 1;
  min-width: 0;
}
.text input {
  width: 100%;
  padding: 2px 6px;
  margin-left: -6px;
  border: 1px solid transparent;
  border-radius: 4px;
}
.text input:hover,
.text input:focus {
  border-color: rgba(var(--v-theme-on-surface), 0.3);
}
.name {
  font-weight: 600;
}
.empty {
  padding: 40px;
  text-align: center;
  border: 1.5px dashed rgba(var(--v-theme-on-surface), 0.3);
  border-radius: 8px;
}
.empty p + p {
  max-width: 560px;
  margin: 8px auto 0;
}
</style>
