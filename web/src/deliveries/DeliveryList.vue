<script setup lang="ts">
import { mdiCheck, mdiClose, mdiDownload, mdiRefresh } from '@mdi/js'
import { useNow } from './useNow'

import { duration, fileSize, pixelSize } from '../parts/format'
import { useNotice } from '../parts/useNotice'
import { formatText, heldText, secondsLeft, unfinished, useDeliveryChanges, type Delivery } from './useDeliveries'

defineProps<{ deliveries: Delivery[] }>()
const { cancel, retry } = useDeliveryChanges()
const notice = useNotice()
const now = useNow()

function left(delivery: Delivery): string {
  const seconds = secondsLeft(delivery, now.value)
  return seconds === undefined ? '' : `${duration(seconds)} left`
}
</script>

<template>
  <ul class="lines" aria-label="Deliveries">
    <li v-for="one in deliveries" :key="one.id" :data-state="one.state">
      <div class="what">
        <strong>{{ one.name }}</strong>
        <span class="quiet small"
          >{{ pixelSize(one) }} px · {{ formatText(one.spec) }} · take {{ one.take_name }} of
          {{ one.picture_name }}</span
        >
      </div>
      <template v-if="unfinished(one)">
        <v-progress-linear
          class="bar"
          color="primary"
          :model-value="one.progress * 100"
          :indeterminate="one.state === 'queued'"
          :aria-label="`Progress of ${one.name}`"
        />
        <span class="small state">{{
          one.state === 'queued'
            ? 'waiting'
            : one.state === 'paused'
              ? heldText(one)
              : `${Math.round(one.progress * 100)} % ${left(one)}`
        }}</span>
        <v-btn
          :icon="mdiClose"
          size="small"
          :aria-label="`Cancel ${one.name}`"
          title="Cancel"
          @click="cancel.mutate(one.id, { onError: notice.fault })"
        />
      </template>
      <template v-else-if="one.state === 'done'">
        <span class="small state done"
          ><v-icon :icon="mdiCheck" size="16" /> {{ fileSize(one.bytes ?? 0) }} in
          {{ duration(one.seconds ?? 0) }}</span
        >
        <v-btn
          :href="`/api/deliveries/${one.id}/file`"
          :prepend-icon="mdiDownload"
          size="small"
          variant="outlined"
          download
          >Download</v-btn
        >
      </template>
      <template v-else>
        <span class="small message">{{
          one.state === 'cancelled' ? 'Cancelled; no file was made.' : one.message
        }}</span>
        <v-btn :prepend-icon="mdiRefresh" size="small" @click="retry.mutate(one.id, { onError: notice.fault })"
          >Try again</v-btn
        >
      </template>
    </li>
  </ul>
</template>

<style scoped>
li {
  display: flex;
  align-items: center;
  gap: 14px;
  padding: 8px;
}
.bar {
  flex: 0 0 180px;
}
.state {
  min-width: 110px;
}
.message {
  flex: 1;
  color: rgb(var(--v-theme-error));
}
</style>
