<script setup lang="ts">
import { mdiDotsHorizontal, mdiEyeOutline, mdiFolderZipOutline, mdiPackageDown, mdiPlus } from '@mdi/js'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'

import ShowingDialog from '../showings/ShowingDialog.vue'
import ShowingList from '../showings/ShowingList.vue'
import type { Showing } from '../showings/queries'
import { saidOf } from '../showings/showings'
import { useShowings } from '../showings/useShowings'
import BatchDialog from '../batches/BatchDialog.vue'
import ApplyCard from '../cards/ApplyCard.vue'
import ClipList from '../clips/ClipList.vue'
import DeliveryList from '../deliveries/DeliveryList.vue'
import { useDeliveries } from '../deliveries/useDeliveries'
import FoldersDialog from '../folders/FoldersDialog.vue'
import PictureList from '../pictures/PictureList.vue'
import { usePictureChanges, usePictures, type Picture } from '../pictures/usePictures'
import UploadList from '../pictures/UploadList.vue'
import { droppedFiles, takenFiles, useUploads } from '../pictures/useUploads'
import TopBar from '../shell/TopBar.vue'
import { useNotice } from '../parts/useNotice'
import JobDialog from '../jobs/JobDialog.vue'
import { orderText } from '../jobs/order'
import { useJob, useJobChanges, type JobDraft } from '../jobs/useJobs'

const props = defineProps<{ jobId: string }>()
const { data: job, error } = useJob(() => props.jobId)
const { data: pictures, isLoading } = usePictures(() => props.jobId)
const { data: deliveries } = useDeliveries(() => props.jobId)
const { showings } = useShowings(() => props.jobId)
const { uploads, add, cancel, again } = useUploads(() => props.jobId)
const pictureChanges = usePictureChanges()
const jobChanges = useJobChanges()
const notice = useNotice()
const router = useRouter()

const editing = ref(false)
const applying = ref(false)
const batching = ref(false)
const folding = ref(false)
const showing = ref(false)
/** The round that the next one is made of. */
const before = ref<Showing | null>(null)
const hovering = ref(0)
const chooser = ref<HTMLInputElement>()
const folderChooser = ref<HTMLInputElement>()
const empty = computed(() => !isLoading.value && !pictures.value?.length && !uploads.length)

async function drop(event: DragEvent) {
  hovering.value = 0
  if (event.dataTransfer) add(await droppedFiles(event.dataTransfer))
}

function chosen(event: Event) {
  const input = event.target as HTMLInputElement
  // A folder brings what the system hides in it, too.
  add([...(input.files ?? [])].filter((file) => !file.name.startsWith('.')))
  input.value = ''
}

/** What the open dialog is about: those that were chosen, or all. */
const chosenOnes = ref<Picture[] | null>(null)
const about = computed(() => chosenOnes.value ?? pictures.value ?? [])
function act(what: 'deliver' | 'card' | 'show', wanted: Picture[] | null) {
  chosenOnes.value = wanted
  before.value = null
  if (what === 'deliver') batching.value = true
  else if (what === 'show') showing.value = true
  else applying.value = true
}

function nextRound(of: Showing) {
  chosenOnes.value = null
  before.value = of
  showing.value = true
}
const said = computed(() => saidOf(showings.value, pictures.value ?? []))

async function takeOut(gone: Picture[]) {
  try {
    await Promise.all(gone.map((one) => pictureChanges.remove.mutateAsync(one.id)))
  } catch (fault) {
    return notice.fault(fault)
  }
  const what = gone.length === 1 ? `${gone[0]!.name} was` : `${gone.length} pictures were`
  notice.say(`${what} taken out; originals and takes are kept.`, {
    label: 'Undo',
    run: () => gone.forEach((one) => pictureChanges.restore.mutate(one.id)),
  })
}

function putAway() {
  const { id, title } = job.value!
  jobChanges.remove.mutate(id, {
    onSuccess: () => {
      notice.say(`“${title}” was put away.`, { label: 'Undo', run: () => jobChanges.restore.mutate(id) })
      void router.push('/')
    },
    onError: notice.fault,
  })
}

function save(draft: JobDraft) {
  jobChanges.change.mutate({ id: props.jobId, job: draft }, { onSuccess: () => (editing.value = false) })
}
</script>

<template>
  <div
    class="d-flex flex-column"
    style="height: 100%"
    @dragenter.prevent="hovering++"
    @dragleave="hovering--"
    @dragover.prevent
    @drop.prevent="drop"
  >
    <TopBar><RouterLink to="/" class="back">Jobs</RouterLink> ▸ {{ job?.title }}</TopBar>
    <div class="page">
      <div class="page-inner">
        <p v-if="error" role="alert">{{ error.message }}</p>
        <template v-if="job">
          <div class="page-head">
            <div>
              <h1>{{ job.title }}</h1>
              <p class="quiet">
                {{ job.client || 'no client named' }}
                <template v-if="job.order"> · ordered: {{ orderText(job.order) }}</template>
              </p>
              <p v-if="job.note" class="small quiet">{{ job.note }}</p>
            </div>
            <div class="d-flex ga-2">
              <v-btn color="primary" variant="flat" :prepend-icon="mdiPlus" @click="chooser?.click()"
                >Add pictures</v-btn
              >
              <v-btn
                v-if="pictures?.length"
                variant="outlined"
                :prepend-icon="mdiPackageDown"
                title="One output for many pictures"
                @click="act('deliver', null)"
                >Deliver many</v-btn
              >
              <v-btn
                v-if="pictures?.length"
                variant="outlined"
                :prepend-icon="mdiEyeOutline"
                title="A link for your client: before and after, approval and notes"
                @click="act('show', null)"
                >Make a showing</v-btn
              >
              <v-menu>
                <template #activator="{ props: opener }">
                  <v-btn v-bind="opener" :icon="mdiDotsHorizontal" size="small" aria-label="More about this job" />
                </template>
                <v-list density="compact">
                  <v-list-item
                    title="Use a card on the pictures"
                    :disabled="!pictures?.length"
                    @click="act('card', null)"
                  />
                  <v-list-item title="Add a whole folder" @click="folderChooser?.click()" />
                  <v-list-item title="Folders on the server" @click="folding = true" />
                  <v-list-item title="Change title, client, order" @click="editing = true" />
                  <v-list-item title="Put the job away" @click="putAway" />
                </v-list>
              </v-menu>
            </div>
          </div>
          <input
            ref="chooser"
            type="file"
            multiple
            hidden
            :accept="takenFiles"
            aria-label="Picture files"
            @change="chosen"
          />

          <input
            ref="folderChooser"
            type="file"
            multiple
            hidden
            webkitdirectory
            aria-label="Picture folder"
            @change="chosen"
          />

          <UploadList :uploads="uploads" @again="again" @cancel="cancel" />

          <div
            v-if="empty"
            class="target"
            role="button"
            tabindex="0"
            @click="chooser?.click()"
            @keydown.enter="chooser?.click()"
          >
            <h2>Drop photographs or a whole folder here</h2>
            <p class="quiet">
              JPEG, PNG, TIFF, WebP or camera raws, any size up to 250 megapixels; clips to take stills from. The files
              you bring in are never changed: every treatment is kept beside them.
            </p>
            <p class="quiet">Or press <kbd>Enter</kbd> to choose them.</p>
          </div>
          <ClipList :job-id="jobId" />
          <PictureList
            v-if="pictures && !empty"
            :pictures="pictures"
            :deliveries="deliveries ?? []"
            :said="said"
            @show="act('show', $event)"
            @remove="takeOut"
            @deliver="act('deliver', $event)"
            @card="act('card', $event)"
          />

          <ShowingList :job-id="jobId" @next="nextRound" />

          <section v-if="deliveries?.length" class="mt-8">
            <div class="d-flex align-center justify-space-between mb-2">
              <h2>Deliveries</h2>
              <v-btn
                v-if="deliveries.some((one) => one.state === 'done')"
                :href="`/api/jobs/${jobId}/bundle`"
                download
                :prepend-icon="mdiFolderZipOutline"
                size="small"
                variant="outlined"
                title="Every finished file with its checksum, and a page that tells what was done to each"
                >Bundle with ledger</v-btn
              >
            </div>
            <DeliveryList :deliveries="deliveries" />
          </section>
        </template>
      </div>
    </div>
    <div v-if="hovering > 0" class="veil">
      <h1>Let go to add to “{{ job?.title }}”</h1>
    </div>
    <ApplyCard v-model="applying" :pictures="about" />
    <FoldersDialog v-model="folding" :job-id="jobId" />
    <ShowingDialog
      v-if="job && pictures"
      v-model="showing"
      :job-id="jobId"
      :job-title="job.title"
      :pictures="before ? pictures : about"
      :before="before"
    />
    <BatchDialog v-model="batching" :pictures="about" />
    <JobDialog
      v-model="editing"
      :job="job"
      :busy="jobChanges.change.isPending.value"
      :fault="jobChanges.change.error.value?.message"
      @save="save"
    />
  </div>
</template>

<style scoped>
.back {
  color: inherit;
}
.target {
  border: 1.5px dashed rgba(var(--v-theme-on-surface), 0.4);
  border-radius: 8px;
  padding: 64px 32px;
  text-align: center;
  display: flex;
  flex-direction: column;
  gap: 10px;
  align-items: center;
  cursor: pointer;
}
.target p {
  max-width: 460px;
}
.veil {
  position: fixed;
  inset: 0;
  display: grid;
  place-items: center;
  pointer-events: none;
  background: rgba(var(--v-theme-background), 0.85);
  border: 3px solid rgb(var(--v-theme-primary));
  z-index: 10;
}
</style>
