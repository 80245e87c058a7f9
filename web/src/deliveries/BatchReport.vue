<script setup lang="ts">
import { mdiCheck, mdiClose, mdiPause, mdiPlay, mdiRefresh } from '@mdi/js'
import { computed, ref } from 'vue'

import { about, duration, fileSize } from '../parts/format'
import { useNotice } from '../parts/useNotice'
import { unfinished, useDeliveryChanges, type Delivery } from './useDeliveries'
import { secondsUntil, type Batch, type QueueChange } from './useQueue'

const props = defineProps<{ batch: Batch; now: number }>()
const emit = defineEmits<{ change: [what: QueueChange] }>()
const { retry } = useDeliveryChanges()
const notice = useNotice()

const open = ref(false)
const of = (...states: Delivery['state'][]) => props.batch.deliveries.filter((one) => states.includes(one.state))
const sum = (rows: Delivery[], what: 'bytes' | 'seconds') => rows.reduce((total, one) => total + (one[what] ?? 0), 0)
const done = computed(() => of('done'))
const missed = computed(() => of('failed', 'cancelled'))
const ended = computed(() => props.batch.placed && !props.batch.deliveries.some(unfinished))
const share = computed(
  () =>
    props.batch.deliveries.reduce((total, one) => total + (unfinished(one) ? one.progress : 1), 0) /
    Math.max(1, props.batch.deliveries.length),
)
const all = computed(() => Math.max(props.batch.count, props.batch.deliveries.length + props.batch.left_out.length))

const summary = computed(() => {
  const parts = [`${done.value.length} of ${all.value} made`]
  if (ended.value) parts.push(fileSize(sum(done.value, 'bytes')), `${duration(sum(done.value, 'seconds'))} of work`)
  else {
    if (!props.batch.placed) parts.push('being put into the queue')
    const left = Math.max(0, ...secondsUntil(props.batch.deliveries, props.now).values())
    parts.push(of('queued', 'running').length ? `${about(left)} left` : 'paused')
  }
  const failed = of('failed').length
  const cancelled = of('cancelled').length
  if (failed) parts.push(`${failed} failed`)
  if (cancelled) parts.push(`${cancelled} cancelled`)
  if (props.batch.left_out.length) parts.push(`${props.batch.left_out.length} left out`)
  return parts.join(' · ')
})
const outcome = (one: Delivery) =>
  one.state === 'done'
    ? `${fileSize(one.bytes ?? 0)} in ${duration(one.seconds ?? 0)}`
    : one.state === 'failed'
      ? one.message
      : one.state === 'cancelled'
        ? 'cancelled; no file was made'
        : one.state
function again() {
  for (const one of missed.value) retry.mutate(one.id, { onError: notice.fault })
}
</script>

<template>
  <article class="batch" :aria-label="`Batch ${batch.treatment}`">
    <header>
      <button type="button" class="title" :aria-expanded="open" @click="open = !open">
        <strong>{{ batch.treatment }}</strong>
        <span class="quiet small"
          >{{ batch.job_title }} ·
          {{ new Date(batch.created).toLocaleString([], { dateStyle: 'medium', timeStyle: 'short' }) }}</span
        >
      </button>
      <span class="small summary" role="status">{{ summary }}</span>
      <template v-if="!ended">
        <v-btn
          v-if="of('queued').length"
          :icon="mdiPause"
          size="x-small"
          aria-label="Pause batch"
          title="Pause"
          @click="emit('change', 'pause')"
        />
        <v-btn
          v-if="of('paused').length"
          :icon="mdiPlay"
          size="x-small"
          aria-label="Resume batch"
          title="Resume"
          @click="emit('change', 'resume')"
        />
        <v-btn
          :icon="mdiClose"
          size="x-small"
          aria-label="Cancel batch"
          title="Cancel"
          @click="emit('change', 'cancel')"
        />
      </template>
      <v-btn v-else-if="missed.length" size="small" :prepend-icon="mdiRefresh" @click="again"
        >Try {{ missed.length }} again</v-btn
      >
      <v-btn size="small" variant="outlined" :aria-expanded="open" @click="open = !open">{{
        open ? 'Close' : 'Report'
      }}</v-btn>
    </header>
    <v-progress-linear
      v-if="!ended"
      color="primary"
      height="3"
      :model-value="share * 100"
      aria-label="Progress of the batch"
    />
    <ul v-if="open" class="files">
      <li v-for="one in batch.deliveries" :key="one.id">
        <v-icon v-if="one.state === 'done'" :icon="mdiCheck" size="16" /><span v-else class="mark" />
        <span>{{ one.name }}</span>
        <span class="quiet small">take {{ one.take_name }} of {{ one.picture_name }}</span>
        <span class="small" :class="{ fault: one.state === 'failed' }">{{ outcome(one) }}</span>
      </li>
      <li v-for="one in batch.left_out" :key="one.name">
        <span class="mark" />
        <span>{{ one.name }}</span>
        <span class="quiet small">left out</span>
        <span class="small fault">{{ one.problem }}</span>
      </li>
    </ul>
  </article>
</template>

<style scoped>
.batch {
  border: 1px solid rgba(var(--v-theme-on-surface), 0.16);
  border-radius: 6px;
  margin-bottom: 8px;
}
header {
  display: flex;
  align-items: center;
  gap: 10px;
  padding: 8px 12px;
}
.title {
  flex: 1;
  display: flex;
  flex-direction: column;
  text-align: left;
  min-width: 0;
  cursor: pointer;
}
.files {
  padding: 4px 12px 10px;
  list-style: none;
  border-top: 1px solid rgba(var(--v-theme-on-surface), 0.12);
}
.files li {
  display: grid;
  grid-template-columns: 20px minmax(0, 1.3fr) minmax(0, 1fr) minmax(0, 1.2fr);
  gap: 8px;
  padding: 3px 0;
  align-items: baseline;
  overflow-wrap: anywhere;
}
</style>
