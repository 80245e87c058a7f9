<script setup lang="ts">
import { mdiClose } from '@mdi/js'
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'

import { answer, server } from '../api/client'
import { duration, number, pixelSize } from '../parts/format'
import { useNotice } from '../parts/useNotice'
import { clipQueries, type Clip } from './queries'

/** The clips of a job, each a way to its stills. */
const props = defineProps<{ jobId: string }>()
const { data: clips } = useQuery(() => clipQueries.all(props.jobId))
const client = useQueryClient()
const notice = useNotice()
const refresh = () => client.invalidateQueries({ queryKey: ['clips', 'of', props.jobId] })

const remove = useMutation({
  mutationFn: (clip: Clip) => answer(server.DELETE('/api/clips/{clip_id}', { params: { path: { clip_id: clip.id } } })),
  onSuccess: async (_, clip) => {
    await refresh()
    notice.say(`${clip.name} is taken out; its stills stay.`, { label: 'Undo', run: () => restore.mutate(clip) })
  },
  onError: notice.fault,
})
const restore = useMutation({
  mutationFn: (clip: Clip) =>
    answer(server.POST('/api/clips/{clip_id}/restore', { params: { path: { clip_id: clip.id } } })),
  onSuccess: refresh,
  onError: notice.fault,
})
</script>

<template>
  <section v-if="clips?.length" class="mb-4" aria-label="Clips">
    <ul class="clips">
      <li v-for="clip in clips" :key="clip.id">
        <RouterLink :to="{ name: 'clip', params: { jobId, clipId: clip.id } }" :aria-label="`Open ${clip.name}`">
          <img :src="`/api/clips/${clip.id}/strip`" alt="" loading="lazy" />
          <span class="told">
            <strong>{{ clip.name }}</strong>
            <span class="quiet small"
              >clip · {{ pixelSize(clip.facts) }} px · {{ clip.facts.frames }} frames in
              {{ duration(clip.facts.seconds) }} · {{ number(clip.facts.rate, 2) }} a second</span
            >
          </span>
        </RouterLink>
        <v-btn
          :icon="mdiClose"
          size="small"
          :aria-label="`Take out ${clip.name}`"
          title="Take it out; it can be had back"
          @click="remove.mutate(clip)"
        />
      </li>
    </ul>
  </section>
</template>

<style scoped>
.clips {
  list-style: none;
  padding: 0;
  display: grid;
  gap: 8px;
}
li {
  display: flex;
  align-items: center;
  border: 1px solid rgba(var(--v-theme-on-surface), 0.14);
  border-radius: 4px;
  padding: 8px 12px;
  background: rgb(var(--v-theme-surface));
}
a {
  flex: 1;
  min-width: 0;
  color: inherit;
  text-decoration: none;
  display: grid;
  gap: 6px;
}
img {
  height: 40px;
  width: 100%;
  object-fit: cover;
  object-position: left;
  border-radius: 2px;
}
.told {
  display: flex;
  gap: 12px;
  align-items: baseline;
}
</style>
