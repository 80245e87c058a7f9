<script setup lang="ts">
import { mdiClose } from '@mdi/js'

import { readingLine } from '../readings/readingText'
import { cameraLine, depthLine, fileLine, pixelLine, printLine } from './factText'
import type { Picture } from './usePictures'

defineProps<{ picture: Picture }>()
defineEmits<{ remove: [] }>()
</script>

<template>
  <li class="row">
    <RouterLink
      class="open"
      :to="{ name: 'bench', params: { jobId: picture.job_id, pictureId: picture.id } }"
      :aria-label="`Open ${picture.name} on the bench`"
    >
      <img :src="`/api/pictures/${picture.id}/preview`" alt="" loading="lazy" />
      <div class="facts">
        <h2>{{ picture.name }}</h2>
        <p>{{ pixelLine(picture.facts) }}</p>
        <p class="quiet small">{{ depthLine(picture.facts) }}</p>
        <p class="quiet small">{{ fileLine(picture.facts) }}</p>
        <p v-if="cameraLine(picture.facts)" class="quiet small">{{ cameraLine(picture.facts) }}</p>
        <p v-if="picture.reading && readingLine(picture.reading, picture.facts)" class="small">
          {{ readingLine(picture.reading, picture.facts) }}
        </p>
        <p v-if="picture.facts.damaged" class="small fault" role="note">Damaged: {{ picture.facts.damaged }}.</p>
        <p v-for="note in picture.facts.notes" :key="note" class="small note">{{ note }}</p>
      </div>
      <div class="side small">
        <p>{{ printLine(picture.facts) }}</p>
        <p class="quiet">{{ picture.takes.length }} {{ picture.takes.length === 1 ? 'take' : 'takes' }}</p>
      </div>
    </RouterLink>
    <v-btn
      :icon="mdiClose"
      size="small"
      :aria-label="`Take ${picture.name} out of the job`"
      title="Take out of the job"
      @click="$emit('remove')"
    />
  </li>
</template>

<style scoped>
.row {
  display: flex;
  align-items: flex-start;
  gap: 4px;
  padding: 8px;
}
.row:hover {
  background: rgb(var(--v-theme-surface));
}
.open {
  flex: 1;
  display: grid;
  grid-template-columns: 156px 1fr 190px;
  gap: 18px;
  color: inherit;
  text-decoration: none;
  min-width: 0;
}
img {
  width: 156px;
  height: 112px;
  object-fit: contain;
  background: rgb(var(--v-theme-surface));
}
.facts {
  min-width: 0;
  overflow-wrap: anywhere;
}
.note {
  color: rgb(var(--v-theme-warning));
}
</style>
