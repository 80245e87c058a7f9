<script setup lang="ts">
import { mdiClose, mdiEyeOffOutline, mdiEyeOutline } from '@mdi/js'
import { computed, ref } from 'vue'

import { useCards } from '../cards/useCards'
import { usualOutput } from '../deliveries/output'
import { formatText } from '../deliveries/useDeliveries'
import { useOutputs } from '../deliveries/useOutputs'
import { useDefaults } from '../settings/useDefaults'
import { useNotice } from '../parts/useNotice'
import ChoiceRow from '../parts/ChoiceRow.vue'
import StrengthSlider from '../parts/StrengthSlider.vue'
import FolderChoice from './FolderChoice.vue'
import { useHandOffs, type HandOff, type HandOffDraft } from './useFolders'

const open = defineModel<boolean>({ required: true })
const props = defineProps<{ jobId: string }>()
const { handOffs, error, begin, watch, end } = useHandOffs(() => props.jobId, open)
const { cards } = useCards()
const { outputs } = useOutputs()
const { defaults } = useDefaults()
const notice = useNotice()

const inbox = ref('')
const outbox = ref('')
const watched = ref(true)
const treat = ref<NonNullable<HandOffDraft['treat']>>('nothing')
const card = ref<string | null>(null)
const strength = ref(100)
const output = ref<string>('usual')

const ways: { value: typeof treat.value; title: string; what: string }[] = [
  { value: 'nothing', title: 'Bring in', what: 'They wait to be worked on; what is delivered of them comes back' },
  { value: 'suggestion', title: 'Suggested', what: 'Each is treated as its own reading suggests, and delivered' },
  { value: 'card', title: 'A card', what: 'Each is treated with the same steps, and delivered' },
]
const written = computed(() => [
  { value: 'usual', title: defaults.value ? `as usual (${formatText(defaults.value.spec)})` : 'as usual' },
  ...(outputs.value?.map((one) => ({ value: one.id, title: `${one.name} (${formatText(one.spec)})` })) ?? []),
])
const ready = computed(() => inbox.value && outbox.value && (treat.value !== 'card' || card.value))

function add() {
  const spec = outputs.value?.find((one) => one.id === output.value)?.spec ?? defaults.value?.spec
  begin.mutate(
    {
      inbox: inbox.value,
      outbox: outbox.value,
      watched: watched.value,
      treat: treat.value,
      card_id: treat.value === 'card' ? card.value : null,
      strength: strength.value,
      spec: { ...usualOutput, ...spec, ppi: null },
    },
    { onSuccess: () => (inbox.value = outbox.value = '') },
  )
}
const told = (one: HandOff) =>
  [
    `${one.came} came in`,
    `${one.went} went out`,
    ...(one.refused.length ? [`${one.refused.length} could not be used`] : []),
  ].join(' · ')
</script>

<template>
  <v-dialog v-model="open" max-width="720" aria-label="Folders">
    <v-card class="pa-5 dialog">
      <h2>Folders on the server</h2>
      <p class="quiet small">
        What is laid into a folder becomes a picture of this job; what is delivered of it is laid down as a new file,
        never over another. The files that came are left as they are.
      </p>
      <p v-if="error" class="fault" role="alert">{{ error.message }}</p>
      <article v-for="one in handOffs" :key="one.id" class="hand-off" :aria-label="`Folder ${one.inbox}`">
        <div class="what">
          <strong>{{ one.inbox }}</strong>
          <span class="small quiet"
            >{{ one.title }} · to {{ one.outbox }} · {{ one.watched ? 'watched' : 'not watched' }}</span
          >
          <span class="small" role="status">{{ told(one) }}</span>
          <span v-if="one.problem" class="small fault" role="alert">{{ one.problem }}</span>
          <details v-if="one.refused.length" class="small">
            <summary>What could not be used</summary>
            <ul>
              <li v-for="file in one.refused" :key="file.name">{{ file.problem }}</li>
            </ul>
          </details>
        </div>
        <v-btn
          :icon="one.watched ? mdiEyeOutline : mdiEyeOffOutline"
          size="small"
          :aria-label="one.watched ? 'Stop watching' : 'Watch'"
          :title="one.watched ? 'Stop watching' : 'Watch'"
          @click="watch.mutate({ id: one.id, watched: !one.watched }, { onError: notice.fault })"
        />
        <v-btn
          :icon="mdiClose"
          size="small"
          aria-label="Remove the folder"
          title="Remove; pictures and files stay"
          @click="end.mutate(one.id, { onError: notice.fault })"
        />
      </article>
      <form class="fields" @submit.prevent="add">
        <FolderChoice v-model="inbox" label="Files come from" />
        <FolderChoice v-model="outbox" label="Finished files go to" />
        <ChoiceRow
          class="wide"
          label="What is done with them"
          :choices="ways"
          :chosen="treat"
          @choose="treat = $event"
        />
        <v-select
          v-if="treat === 'card'"
          v-model="card"
          label="Card"
          :items="cards.map((one) => ({ value: one.id, title: one.name }))"
          no-data-text="There are no cards yet; save one on the bench."
        />
        <StrengthSlider
          v-if="treat === 'card'"
          label="Strength"
          :value="strength"
          unit="%"
          hint="How much of its restoring steps"
          @change="strength = $event"
        />
        <v-select v-if="treat !== 'nothing'" v-model="output" label="Written" :items="written" />
        <v-checkbox v-model="watched" class="wide" label="Go on watching for files that come later" />
        <p v-if="begin.error.value" class="wide fault" role="alert">{{ begin.error.value.message }}</p>
        <div class="wide d-flex justify-end ga-2">
          <v-btn @click="open = false">Close</v-btn>
          <v-btn type="submit" color="primary" variant="flat" :disabled="!ready" :loading="begin.isPending.value">{{
            watched ? 'Watch the folder' : 'Take the folder in'
          }}</v-btn>
        </div>
      </form>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.dialog {
  display: flex;
  flex-direction: column;
  gap: 12px;
}
.hand-off {
  display: flex;
  align-items: start;
  gap: 8px;
  padding: 10px 12px;
  border: 1px solid rgba(var(--v-theme-on-surface), 0.18);
  border-radius: 6px;
}
.fields {
  margin-top: 6px;
}
</style>
