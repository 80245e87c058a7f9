<script setup lang="ts">
import { mdiPlus } from '@mdi/js'
import { ref } from 'vue'
import { useRouter } from 'vue-router'

import TopBar from '../shell/TopBar.vue'
import JobDialog from '../jobs/JobDialog.vue'
import { orderText } from '../jobs/order'
import { useJobChanges, useJobs, type JobDraft } from '../jobs/useJobs'

const { data: jobs, isLoading, error } = useJobs()
const { create } = useJobChanges()
const router = useRouter()
const dialog = ref(false)

function begin(draft: JobDraft) {
  create.mutate(draft, {
    onSuccess: (job) => {
      dialog.value = false
      void router.push({ name: 'job', params: { jobId: job.id } })
    },
  })
}

const day = new Intl.DateTimeFormat(undefined, { day: 'numeric', month: 'short', year: 'numeric' })
</script>

<template>
  <div class="d-flex flex-column" style="height: 100%">
    <TopBar />
    <div class="page">
      <div class="page-inner">
        <div class="page-head">
          <h1>Jobs</h1>
          <v-btn color="primary" variant="flat" :prepend-icon="mdiPlus" @click="dialog = true">New job</v-btn>
        </div>
        <p v-if="error" role="alert">{{ error.message }}</p>
        <v-progress-linear v-else-if="isLoading" indeterminate />
        <div v-else-if="!jobs?.length" class="empty">
          <h2>No jobs yet</h2>
          <p class="quiet">
            A job is one client order: the pictures that came in, the print that was ordered, and what you delivered.
            Begin one, then drop the photographs into it.
          </p>
          <v-btn color="primary" variant="outlined" @click="dialog = true">Begin the first job</v-btn>
        </div>
        <ul v-else class="shelf">
          <li v-for="job in jobs" :key="job.id">
            <RouterLink :to="{ name: 'job', params: { jobId: job.id } }" class="job">
              <div class="cover">
                <img v-if="job.cover" :src="`/api/pictures/${job.cover}/preview`" alt="" loading="lazy" />
                <span v-else class="quiet small">no pictures yet</span>
              </div>
              <div class="text">
                <h2>{{ job.title }}</h2>
                <p class="quiet small">{{ job.client || 'no client named' }}</p>
                <p class="small facts">
                  <span
                    >{{ job.done_count }} of {{ job.picture_count }}
                    {{ job.picture_count === 1 ? 'picture' : 'pictures' }} delivered</span
                  >
                  <span v-if="job.delivery_count"
                    >{{ job.delivery_count }} {{ job.delivery_count === 1 ? 'file' : 'files' }}</span
                  >
                  <span v-if="job.order">{{ orderText(job.order) }}</span>
                </p>
                <span v-if="job.picture_count" class="share" role="presentation"
                  ><span :style="{ width: `${(100 * job.done_count) / job.picture_count}%` }"
                /></span>
                <p class="quiet small">worked on {{ day.format(new Date(job.modified)) }}</p>
              </div>
            </RouterLink>
          </li>
        </ul>
      </div>
    </div>
    <JobDialog v-model="dialog" :busy="create.isPending.value" :fault="create.error.value?.message" @save="begin" />
  </div>
</template>

<style scoped>
.empty {
  max-width: 460px;
  display: flex;
  flex-direction: column;
  align-items: flex-start;
  gap: 14px;
  margin-top: 48px;
}
.shelf {
  list-style: none;
  padding: 0;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(100%, 540px), 1fr));
  gap: 14px;
}
.job {
  display: grid;
  grid-template-columns: 264px 1fr;
  gap: 18px;
  padding: 12px;
  color: inherit;
  text-decoration: none;
  background: rgb(var(--v-theme-surface));
  border: 1px solid rgba(var(--v-theme-on-surface), 0.12);
  border-radius: 6px;
}
.job:hover {
  border-color: rgb(var(--v-theme-primary));
}
.share {
  height: 4px;
  margin: 2px 0;
  background: rgba(var(--v-theme-on-surface), 0.2);
}
.share span {
  display: block;
  height: 100%;
  background: rgb(var(--v-theme-primary));
}
.cover {
  height: 186px;
  display: grid;
  place-items: center;
  background: rgb(var(--v-theme-background));
  overflow: hidden;
  border-radius: 3px;
}
.cover img {
  width: 100%;
  height: 100%;
  object-fit: cover;
  object-position: 50% 65%;
}
.text {
  display: flex;
  flex-direction: column;
  gap: 4px;
  min-width: 0;
}
.facts {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  margin-top: auto;
}
</style>
