<script setup lang="ts">
import { mdiPause, mdiPlay } from '@mdi/js'
import { computed } from 'vue'

import { about } from '../parts/format'
import TopBar from '../shell/TopBar.vue'
import { useNotice } from '../parts/useNotice'
import BatchReport from '../deliveries/BatchReport.vue'
import QueueList from '../deliveries/QueueList.vue'
import { useNow } from '../deliveries/useNow'
import { secondsUntil, useBatches, useQueue } from '../deliveries/useQueue'

const { queue, error, order, change } = useQueue()
const { data: batches } = useBatches()
const notice = useNotice()
const now = useNow()

const until = computed(() => secondsUntil(queue.value ?? [], now.value))
const left = computed(() => Math.max(0, ...until.value.values()))
const going = computed(() => queue.value?.filter((one) => one.state !== 'paused').length ?? 0)
const held = computed(() => queue.value?.filter((one) => one.state === 'paused').length ?? 0)
const told = computed(() => {
  const files = (count: number) => (count === 1 ? '1 file' : `${count} files`)
  const parts = going.value ? [`${files(going.value)} to go, ${about(left.value)}`] : []
  return [...parts, ...(held.value ? [`${files(held.value)} paused`] : [])].join(' · ')
})
</script>

<template>
  <div class="d-flex flex-column" style="height: 100%">
    <TopBar>Deliveries</TopBar>
    <div class="page">
      <div class="page-inner">
        <header class="head">
          <h1>Queue</h1>
          <p class="quiet" role="status">{{ told }}</p>
          <v-btn
            v-if="held"
            variant="outlined"
            size="small"
            :prepend-icon="mdiPlay"
            @click="change.mutate({ what: 'resume' }, { onError: notice.fault })"
            >Resume</v-btn
          >
          <v-btn
            v-if="queue?.some((one) => one.state === 'queued')"
            variant="outlined"
            size="small"
            :prepend-icon="mdiPause"
            title="What is being made is finished; the others wait"
            @click="change.mutate({ what: 'pause' }, { onError: notice.fault })"
            >Pause</v-btn
          >
        </header>
        <p v-if="error" role="alert">{{ error.message }}</p>
        <QueueList
          v-if="queue?.length"
          :queue="queue"
          :until="until"
          @order="order.mutate($event, { onError: notice.fault })"
          @change="(what, id) => change.mutate({ what, ids: [id] }, { onError: notice.fault })"
        />
        <div v-else-if="queue" class="empty quiet">
          <p>Nothing is being made and nothing waits.</p>
          <p>
            Open a picture and press <kbd>D</kbd> to deliver it, or choose “Deliver many” in a job. Go on working
            meanwhile: views never wait for a delivery.
          </p>
        </div>
        <template v-if="batches?.length">
          <h1 class="mt-8 mb-2">Batches</h1>
          <BatchReport
            v-for="batch in batches"
            :key="batch.id"
            :batch="batch"
            :now="now"
            @change="change.mutate({ what: $event, batch_id: batch.id }, { onError: notice.fault })"
          />
        </template>
      </div>
    </div>
  </div>
</template>

<style scoped>
.head {
  display: flex;
  align-items: center;
  gap: 14px;
  min-height: 32px;
  margin-bottom: 12px;
}
.head p {
  flex: 1;
}
.empty {
  padding: 40px;
  text-align: center;
  border: 1.5px dashed rgba(var(--v-theme-on-surface), 0.3);
  border-radius: 8px;
}
.empty p + p {
  max-width: 520px;
  margin: 8px auto 0;
}
</style>
