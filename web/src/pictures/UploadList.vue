<script setup lang="ts">
import { mdiClose, mdiRefresh } from '@mdi/js'

import { fileSize } from '../parts/format'
import type { Upload } from './useUploads'

/** Files on their way into a job. */
defineProps<{ uploads: Upload[] }>()
const emit = defineEmits<{ again: [upload: Upload, anyway?: boolean]; cancel: [upload: Upload] }>()
</script>

<template>
  <ul v-if="uploads.length" class="uploads" aria-label="Uploads">
    <li v-for="one in uploads" :key="one.key" :class="{ failed: one.state === 'failed' }">
      <span class="upload-name">{{ one.name }}</span>
      <span class="quiet small">{{ fileSize(one.bytes) }}</span>
      <template v-if="one.state === 'failed'">
        <span class="message" role="alert">{{ one.message }}</span>
        <v-btn v-if="one.damaged" size="small" @click="emit('again', one, true)">Take it in as it is</v-btn>
        <v-btn :icon="mdiRefresh" size="x-small" aria-label="Try again" title="Try again" @click="emit('again', one)" />
      </template>
      <template v-else>
        <v-progress-linear
          class="bar"
          color="primary"
          :model-value="one.sent * 100"
          :indeterminate="one.state === 'reading'"
        />
        <span class="quiet small state">{{
          one.state === 'waiting'
            ? 'waiting'
            : one.state === 'reading'
              ? 'checking every pixel'
              : `${Math.round(one.sent * 100)} %`
        }}</span>
      </template>
      <v-btn
        :icon="mdiClose"
        size="x-small"
        :aria-label="one.state === 'failed' ? 'Dismiss' : 'Cancel'"
        @click="emit('cancel', one)"
      />
    </li>
  </ul>
</template>

<style scoped>
.uploads {
  list-style: none;
  padding: 0;
  margin-bottom: 16px;
}
.uploads li {
  display: flex;
  align-items: center;
  gap: 12px;
  padding: 4px 8px;
  min-height: 36px;
  background: rgb(var(--v-theme-surface));
  border-radius: 4px;
  margin-bottom: 4px;
}
.upload-name {
  min-width: 140px;
  max-width: 300px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.bar {
  flex: 1;
}
.state {
  width: 130px;
}
.message {
  flex: 1;
  color: rgb(var(--v-theme-error));
}
</style>
