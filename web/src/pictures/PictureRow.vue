<script setup lang="ts">
import { mdiCheckBold, mdiClose, mdiThumbDownOutline, mdiThumbUpOutline } from '@mdi/js'
import { useQueryClient } from '@tanstack/vue-query'

import { readingLine } from '../readings/readingText'
import { takeQueries } from '../takes/queries'
import { cameraLine, depthLine, fileLine, pixelLine, printLine } from './factText'
import { progressText, type Progress } from './pictureList'
import type { Picture } from './queries'

/** `apart` tells a picture from others of its name, `said` what the client said of it. */
const props = defineProps<{ picture: Picture; apart: string; progress: Progress; said: string }>()
defineEmits<{ remove: [] }>()

const client = useQueryClient()
/** Somebody is about to open it. */
const expect = () => void client.prefetchQuery(takeQueries.all(props.picture.id))

type Take = Picture['takes'][number]
const stateOf = (take: Take) =>
  take.chosen ? 'chosen' : take.verdict === 'good' ? 'liked' : take.verdict && 'rejected'
const iconOf = (take: Take) =>
  take.chosen ? mdiCheckBold : take.verdict === 'good' ? mdiThumbUpOutline : take.verdict ? mdiThumbDownOutline : null
</script>

<template>
  <li class="row" @pointerenter="expect" @focusin="expect">
    <slot />
    <RouterLink
      class="open"
      :to="{ name: 'bench', params: { jobId: picture.job_id, pictureId: picture.id } }"
      :aria-label="`Open ${picture.name} on the bench`"
    >
      <img :src="`/api/pictures/${picture.id}/preview`" alt="" loading="lazy" />
    </RouterLink>
    <div class="facts">
      <h2>
        <RouterLink :to="{ name: 'bench', params: { jobId: picture.job_id, pictureId: picture.id } }">{{
          picture.name
        }}</RouterLink>
        <span v-if="apart" class="small quiet apart">{{ apart }}</span>
      </h2>
      <p>{{ pixelLine(picture.facts) }}</p>
      <p class="quiet small">{{ printLine(picture.facts) }}</p>
      <p class="quiet small">{{ depthLine(picture.facts) }} · {{ fileLine(picture.facts) }}</p>
      <p v-if="cameraLine(picture.facts)" class="quiet small">{{ cameraLine(picture.facts) }}</p>
      <p v-if="picture.reading && readingLine(picture.reading, picture.facts)" class="small">
        {{ readingLine(picture.reading, picture.facts) }}
      </p>
      <p v-if="picture.facts.damaged" class="small fault" role="note">Damaged: {{ picture.facts.damaged }}.</p>
      <p v-for="note in picture.facts.notes" :key="note" class="small note">{{ note }}</p>
      <p class="states small">
        <span class="takes" :aria-label="`${picture.takes.length} ${picture.takes.length === 1 ? 'take' : 'takes'}`">
          <RouterLink
            v-for="take in picture.takes"
            :key="take.id"
            class="take"
            :class="{ chosen: take.chosen }"
            :to="{ name: 'bench', params: { jobId: picture.job_id, pictureId: picture.id, takeId: take.id } }"
            :title="`Take ${take.name}${stateOf(take) ? `, ${stateOf(take)}` : ''}`"
            :aria-label="`Take ${take.name}${stateOf(take) ? `, ${stateOf(take)}` : ''}`"
            >{{ take.name }}<v-icon v-if="iconOf(take)" :icon="iconOf(take)!" size="12"
          /></RouterLink>
        </span>
        <span class="made" :class="{ some: progress.made, fault: progress.failed }">{{ progressText(progress) }}</span>
        <span v-if="said" class="said">{{ said }}</span>
      </p>
    </div>
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
  gap: 14px;
  padding: 10px;
  background: rgb(var(--v-theme-surface));
  border: 1px solid rgba(var(--v-theme-on-surface), 0.12);
  border-radius: 6px;
}
h2 a {
  color: inherit;
  text-decoration: none;
}
h2 a:hover {
  text-decoration: underline;
}
.open {
  flex: none;
  border-radius: 3px;
}
.open:hover img {
  outline: 2px solid rgb(var(--v-theme-primary));
}
img {
  display: block;
  width: 232px;
  height: 164px;
  object-fit: contain;
  background: rgb(var(--v-theme-background));
  border-radius: 3px;
}
.facts {
  flex: 1;
  min-width: 0;
  overflow-wrap: anywhere;
}
.apart {
  font-weight: 400;
}
.note {
  color: rgb(var(--v-theme-warning));
}
.states {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 12px;
  margin-top: 8px;
}
.takes {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}
.take {
  display: inline-flex;
  align-items: center;
  gap: 4px;
  max-width: 130px;
  padding: 0 7px;
  overflow: hidden;
  color: inherit;
  text-decoration: none;
  text-overflow: ellipsis;
  white-space: nowrap;
  border: 1px solid rgba(var(--v-theme-on-surface), 0.34);
  border-radius: 4px;
}
.take:hover,
.take.chosen {
  border-color: rgb(var(--v-theme-primary));
}
.made {
  color: rgba(var(--v-theme-on-surface), 0.72);
}
.made.some {
  color: rgb(var(--v-theme-primary));
}
@media (max-width: 1100px) {
  img {
    width: 168px;
    height: 124px;
  }
}
</style>
