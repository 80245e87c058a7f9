<script setup lang="ts">
import BenchCard from '../parts/BenchCard.vue'
import type { ClientNote } from './queries'
import { useClientNotes } from './useShowings'

/** What the client noted on a picture, each with its place. */
const props = defineProps<{ pictureId: string; takeId: string; closeKey: string }>()
const emit = defineEmits<{ close: []; look: [place: { x: number; y: number }] }>()
const { notes, settle } = useClientNotes(() => props.pictureId)

const day = (moment: string) => new Date(moment).toLocaleDateString(undefined, { dateStyle: 'medium' })
function go(note: ClientNote) {
  const place = note.places[props.takeId]
  if (place) emit('look', place)
}
</script>

<template>
  <BenchCard
    title="What the client noted"
    :state="notes.length ? `${notes.filter((one) => !one.done).length} open` : ''"
    closes="Close what the client noted"
    :close-key="closeKey"
    class="client"
    @close="$emit('close')"
  >
    <p v-if="!notes.length" class="small quiet">
      Nothing yet. Make a showing on the job’s page; what your client notes on this picture comes back here.
    </p>
    <ol>
      <li v-for="(note, index) in notes" :key="note.id" :class="{ done: note.done }">
        <input
          type="checkbox"
          :checked="note.done"
          :aria-label="`Note ${index + 1} is seen to`"
          title="Seen to"
          @change="settle.mutate({ id: note.id, done: !note.done })"
        />
        <button
          class="words"
          :disabled="!note.places[takeId]"
          :title="note.places[takeId] ? 'Look at the place' : 'This place is cropped off in this take'"
          @click="go(note)"
        >
          <b>{{ index + 1 }}</b> {{ note.words }}
          <span class="small quiet">{{ note.name }}, {{ day(note.created) }}, round {{ note.round }}</span>
        </button>
      </li>
    </ol>
  </BenchCard>
</template>

<style scoped>
.client {
  right: 12px;
  top: 12px;
  width: 300px;
  max-height: calc(100% - 24px);
  overflow-y: auto;
}
ol {
  list-style: none;
  padding: 0;
}
li {
  display: flex;
  gap: 8px;
  padding: 4px 0;
  align-items: flex-start;
}
li input {
  margin-top: 4px;
}
.words {
  flex: 1;
  text-align: left;
  overflow-wrap: anywhere;
  cursor: pointer;
}
.words .small {
  display: block;
}
.done .words {
  opacity: 0.65;
  text-decoration: line-through;
}
</style>
