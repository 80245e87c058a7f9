<script setup lang="ts">
import { mdiContentCopy } from '@mdi/js'
import { computed, ref, watch } from 'vue'

import { useNotice } from '../parts/useNotice'
import type { Picture } from '../pictures/queries'
import type { Showing } from './queries'
import { choicesOf, picturesOf, type Choice } from './showings'
import { useShowings } from './useShowings'

const open = defineModel<boolean>({ required: true })
const props = defineProps<{
  jobId: string
  jobTitle: string
  pictures: Picture[]
  /** The round before, if this is to be the next. */
  before: Showing | null
}>()
const { make } = useShowings(() => props.jobId)
const notice = useNotice()

const title = ref('')
const words = ref('')
const email = ref('')
const days = ref('14')
const passphrase = ref('')
const longest = ref(1600)
const mark = ref('')
const spots = ref(true)
const choices = ref<Choice[]>([])
const made = ref<Showing | null>(null)

const sizes = [
  { value: 1024, title: 'small, 1024 px' },
  { value: 1600, title: 'for a screen, 1600 px' },
  { value: 2560, title: 'for a large screen, 2560 px' },
  { value: 4096, title: 'up to 4096 px' },
]
const chosen = computed(() => picturesOf(choices.value))

watch(open, (now) => {
  if (!now) return
  made.value = null
  make.reset()
  choices.value = choicesOf(props.pictures, props.before)
  title.value = props.before?.title ?? props.jobTitle
  email.value = props.before?.email ?? ''
  longest.value = props.before?.longest ?? 1600
  mark.value = props.before?.mark ?? ''
  spots.value = props.before?.with_spots ?? true
  words.value = passphrase.value = ''
  days.value = '14'
})

async function send() {
  made.value = await make.mutateAsync({
    title: title.value,
    words: words.value,
    email: email.value.trim(),
    pictures: chosen.value,
    days: Number(days.value) || 14,
    passphrase: passphrase.value,
    longest: longest.value,
    mark: mark.value,
    with_spots: spots.value,
    follows: props.before?.id ?? null,
  })
}
const link = computed(() => (made.value ? `${location.origin}${made.value.path}` : ''))
async function copy() {
  await navigator.clipboard.writeText(link.value)
  notice.say('The link was copied.')
}
</script>

<template>
  <v-dialog v-model="open" max-width="760" aria-label="Make a showing">
    <v-card class="pa-5">
      <template v-if="made">
        <h2 class="mb-2">“{{ made.title }}” is there{{ made.round > 1 ? `, round ${made.round}` : '' }}</h2>
        <p class="mb-3">
          Whoever has this link sees these pictures and nothing else.
          <template v-if="made.email">It was written to the outbox, for {{ made.email }}.</template>
          <template v-if="made.has_passphrase"> Tell them the passphrase by another way.</template>
        </p>
        <v-text-field :model-value="link" label="Link" readonly hide-details @focus="$event.target.select()" />
        <div class="d-flex justify-end ga-2 mt-4">
          <v-btn :href="made.path" target="_blank" variant="outlined">See it as they do</v-btn>
          <v-btn :prepend-icon="mdiContentCopy" variant="outlined" @click="copy">Copy</v-btn>
          <v-btn color="primary" variant="flat" @click="open = false">Done</v-btn>
        </div>
      </template>
      <form v-else class="fields" @submit.prevent="send">
        <h2 class="wide">{{ before ? `Round ${before.round + 1} of “${before.title}”` : 'Make a showing' }}</h2>
        <p class="wide quiet small">
          Your client sees before and after, check spots, sizes and what was done, by a link that opens this and nothing
          else. They approve, ask for changes or leave notes on places.
        </p>
        <v-text-field v-model="title" label="Title" required maxlength="120" class="wide" hide-details />
        <v-textarea v-model="words" label="To your client" rows="2" maxlength="2000" class="wide" hide-details />
        <ul class="wide lines choices" aria-label="Pictures to show">
          <li v-for="one in choices" :key="one.picture.id">
            <v-checkbox-btn v-model="one.wanted" :aria-label="`Show ${one.picture.name}`" />
            <img :src="`/api/pictures/${one.picture.id}/preview`" alt="" />
            <span class="what">{{ one.picture.name }}</span>
            <v-select
              v-model="one.takeId"
              class="take"
              density="compact"
              hide-details
              :aria-label="`Take of ${one.picture.name}`"
              :items="
                one.picture.takes.map((take) => ({
                  value: take.id,
                  title: `take ${take.name}${take.chosen ? ', chosen' : ''}`,
                }))
              "
              :disabled="!one.wanted"
            />
          </li>
        </ul>
        <v-select v-model="longest" label="They see at most" :items="sizes" hide-details />
        <v-text-field v-model="mark" label="Words across the pictures (optional)" maxlength="60" hide-details />
        <v-text-field v-model="days" label="Days the link is open" inputmode="numeric" hide-details />
        <v-text-field
          v-model="passphrase"
          label="Passphrase (optional)"
          maxlength="100"
          autocomplete="off"
          hide-details
        />
        <v-text-field v-model="email" label="Email of your client (optional)" maxlength="200" hide-details />
        <v-checkbox v-model="spots" label="Check spots, at full size" density="compact" hide-details />
        <p v-if="make.error.value" class="wide fault" role="alert">{{ make.error.value.message }}</p>
        <div class="wide d-flex justify-end ga-2">
          <v-btn @click="open = false">Cancel</v-btn>
          <v-btn
            type="submit"
            color="primary"
            variant="flat"
            :loading="make.isPending.value"
            :disabled="!chosen.length || !title.trim()"
          >
            Make it: {{ chosen.length }} {{ chosen.length === 1 ? 'picture' : 'pictures' }}
          </v-btn>
        </div>
      </form>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.choices {
  max-height: 30vh;
  overflow-y: auto;
}
.choices li {
  display: flex;
  align-items: center;
  gap: 10px;
  padding: 4px 0;
}
.choices :deep(.v-selection-control) {
  flex: none;
}
.choices img {
  width: 64px;
  height: 44px;
  object-fit: contain;
  background: rgb(var(--v-theme-background));
}
.take {
  max-width: 210px;
}
</style>
