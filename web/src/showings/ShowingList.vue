<script setup lang="ts">
import {
  mdiCheckBold,
  mdiContentCopy,
  mdiDotsHorizontal,
  mdiFilePdfBox,
  mdiMessageTextOutline,
  mdiPencilOutline,
  mdiRefresh,
} from '@mdi/js'

import { useNotice } from '../parts/useNotice'
import type { Showing, ShownPicture } from './queries'
import { stateText, verdictText } from './showings'
import { useShowings } from './useShowings'

const props = defineProps<{ jobId: string }>()
const emit = defineEmits<{ next: [showing: Showing] }>()
const { showings, close, renew, retry } = useShowings(() => props.jobId)
const notice = useNotice()

const until = (moment: string) => new Date(moment).toLocaleDateString(undefined, { dateStyle: 'medium' })
const openNotes = (one: ShownPicture) => one.notes.filter(({ done }) => !done).length

async function copy(showing: Showing) {
  await navigator.clipboard.writeText(`${location.origin}${showing.path}`)
  notice.say(`The link of “${showing.title}” was copied.`)
}
function shut(showing: Showing) {
  close.mutate(showing.id, {
    onSuccess: () =>
      notice.say(`“${showing.title}” is closed: its link opens nothing any more.`, {
        label: 'Open by a new link',
        run: () => renew.mutate(showing.id),
      }),
  })
}
</script>

<template>
  <section v-if="showings.length" class="mt-8" aria-label="Showings">
    <h2 class="mb-2">Showings</h2>
    <ul class="lines">
      <li v-for="showing in showings" :key="showing.id" :data-showing="showing.title">
        <div class="head">
          <div class="what">
            <strong
              >{{ showing.title }}<template v-if="showing.round > 1">, round {{ showing.round }}</template></strong
            >
            <span class="small quiet"
              >{{ stateText(showing, Date.now()) }} · {{ showing.open ? 'open until' : 'was open until' }}
              {{ until(showing.expires) }}<template v-if="showing.has_passphrase"> · passphrase</template
              ><template v-if="showing.mark"> · “{{ showing.mark }}” across</template></span
            >
          </div>
          <v-btn
            v-if="showing.open"
            size="small"
            variant="outlined"
            :prepend-icon="mdiContentCopy"
            :aria-label="`Copy the link of ${showing.title}`"
            @click="copy(showing)"
            >Link</v-btn
          >
          <v-btn
            v-if="!showing.followed"
            size="small"
            variant="outlined"
            :aria-label="`Next round of ${showing.title}`"
            @click="emit('next', showing)"
            >Next round</v-btn
          >
          <v-menu>
            <template #activator="{ props: opener }">
              <v-btn
                v-bind="opener"
                :icon="mdiDotsHorizontal"
                size="small"
                :aria-label="`More about ${showing.title}`"
              />
            </template>
            <v-list density="compact">
              <v-list-item v-if="showing.open" title="See it as they do" :href="showing.path" target="_blank" />
              <v-list-item
                title="PDF of it"
                :prepend-icon="mdiFilePdfBox"
                :href="`/api/showings/${showing.id}/pdf`"
                download
              />
              <v-list-item v-if="showing.open" title="Close it now" @click="shut(showing)" />
              <v-list-item title="Open it by a new link" @click="renew.mutate(showing.id)" />
            </v-list>
          </v-menu>
        </div>
        <ul class="pictures">
          <li v-for="one in showing.pictures" :key="one.position" class="small">
            <v-icon
              :icon="
                one.answer?.verdict === 'approved'
                  ? mdiCheckBold
                  : one.answer
                    ? mdiPencilOutline
                    : one.state === 'failed'
                      ? mdiRefresh
                      : undefined
              "
              size="16"
              class="sign"
            />
            <RouterLink
              :to="{ name: 'bench', params: { jobId, pictureId: one.picture_id } }"
              :aria-label="`${one.name}, shown in ${showing.title}`"
              >{{ one.name }}</RouterLink
            >
            <span class="quiet">take {{ one.take_name }}</span>
            <template v-if="one.state === 'failed'">
              <span class="fault">{{ one.message }}</span>
              <v-btn size="x-small" @click="retry.mutate({ id: showing.id, position: one.position })">Try again</v-btn>
            </template>
            <template v-else>
              <span :class="one.answer?.verdict">{{ verdictText(one) }}</span>
              <span v-if="one.answer?.words" class="quiet">“{{ one.answer.words }}”</span>
              <span v-if="one.notes.length" class="quiet"
                ><v-icon :icon="mdiMessageTextOutline" size="14" /> {{ openNotes(one) }} of {{ one.notes.length }}
                {{ one.notes.length === 1 ? 'note' : 'notes' }} open</span
              >
              <ul v-if="one.notes.length" class="notes quiet">
                <li v-for="note in one.notes" :key="note.id" :class="{ seen: note.done }">
                  {{ note.name }}: {{ note.words }}
                </li>
              </ul>
            </template>
          </li>
        </ul>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.lines > li {
  padding: 10px 8px;
}
.head {
  display: flex;
  align-items: center;
  gap: 8px;
}
.pictures {
  list-style: none;
  padding: 6px 0 0;
}
.pictures li {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 10px;
  padding: 2px 0;
}
.pictures .notes {
  flex-basis: 100%;
  list-style: none;
  padding-left: 28px;
}
.notes .seen {
  text-decoration: line-through;
}
.pictures a {
  color: inherit;
}
.sign {
  width: 18px;
}
.approved {
  color: rgb(var(--v-theme-primary));
}
.changes {
  color: rgb(var(--v-theme-warning));
}
</style>
