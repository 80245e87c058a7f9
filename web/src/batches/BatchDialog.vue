<script setup lang="ts">
import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'

import { answer, server, type Schemas } from '../api/client'
import { useCards } from '../cards/useCards'
import { colourSpaces } from '../deliveries/colourSpaces'
import { formats, usualOutput } from '../deliveries/output'
import { formatText, type OutputSpec } from '../deliveries/useDeliveries'
import { useOutputs } from '../deliveries/useOutputs'
import type { Picture } from '../pictures/usePictures'
import { useDefaults } from '../settings/useDefaults'
import { about, fileSize, pixelSize } from '../parts/format'
import ChoiceRow from '../parts/ChoiceRow.vue'
import StrengthSlider from '../parts/StrengthSlider.vue'
import { deliveryQueries } from '../deliveries/queries'
import { useBatches } from '../deliveries/useQueue'
import { batchQueries } from './queries'

type By = NonNullable<Schemas['BatchIn']['by']>

const open = defineModel<boolean>({ required: true })
const props = defineProps<{ pictures: Picture[] }>()
const client = useQueryClient()
const { cards } = useCards()
const { defaults } = useDefaults()
const { outputs } = useOutputs()

const wanted = ref<string[]>([])
const by = ref<By>('take')
const card = ref<string | null>(null)
const strength = ref(100)
/** A saved output's id, “usual”, or a format with the rest as usual. */
const output = ref('usual')
const profile = ref<NonNullable<OutputSpec['profile']>>('keep')
/** The batch that was ordered. */
const ordered = ref<string | null>(null)

watch(open, (now) => {
  if (!now) return
  wanted.value = props.pictures.map((one) => one.id)
  ordered.value = null
  card.value ??= cards.value[0]?.id ?? null
  profile.value = defaults.value?.spec.profile ?? 'keep'
})

const ways: { value: By; title: string; what: string }[] = [
  { value: 'take', title: 'Their takes', what: 'The chosen take of each, or its first' },
  { value: 'suggestion', title: 'Suggested', what: 'A new take of each, from its own reading' },
  { value: 'card', title: 'A card', what: 'A new take of each, with the same steps' },
]
const saved = computed(() => outputs.value?.find((one) => one.id === output.value))
const choices = computed(() => [
  { value: 'usual', title: defaults.value ? `as usual (${formatText(defaults.value.spec)})` : 'as usual' },
  ...(outputs.value?.map((one) => ({ value: one.id, title: `${one.name} (${formatText(one.spec)})` })) ?? []),
  ...formats
    .filter((one) => one.value !== defaults.value?.spec.format)
    .map((one) => ({ value: one.value as string, title: one.title })),
])
const spec = computed(() => {
  if (saved.value) return { ...usualOutput, ...saved.value.spec, ppi: null }
  const format = output.value === 'usual' ? {} : { format: output.value as OutputSpec['format'] }
  return { ...usualOutput, ...defaults.value?.spec, ...format, profile: profile.value, ppi: null }
})
const body = computed(() => ({
  pictures: props.pictures.filter((one) => wanted.value.includes(one.id)).map((one) => one.id),
  by: by.value,
  card_id: card.value,
  strength: strength.value,
  spec: spec.value,
}))
const ready = computed(
  () => open.value && !ordered.value && wanted.value.length > 0 && (by.value !== 'card' || card.value !== null),
)
const { data: plan, error } = useQuery(
  computed(() => ({
    ...batchQueries.plan(body.value),
    enabled: ready.value,
    placeholderData: keepPreviousData,
    retry: false,
  })),
)
const order = useMutation({
  mutationFn: () => answer(server.POST('/api/batch', { body: body.value })),
  onSuccess: (batch) => {
    client.setQueryData(deliveryQueries.batches().queryKey, (all) => [batch, ...(all ?? [])])
    ordered.value = batch.id
  },
})
/** It is placed by a worker, whatever becomes of this page; here is only told how far that is. */
const { data: batches } = useBatches(() => ordered.value !== null)
const report = computed(() => batches.value?.find((one) => one.id === ordered.value) ?? null)
watch(
  () => report.value?.placed,
  () => {
    for (const key of ['deliveries', 'pictures', 'jobs', 'queue']) void client.invalidateQueries({ queryKey: [key] })
  },
)

const planned = computed(() => new Map((plan.value ?? []).map((one) => [one.picture_id, one])))
const chosen = computed(() => body.value.pictures.map((id) => planned.value.get(id)).filter((one) => one !== undefined))
const fine = computed(() => chosen.value.filter((one) => !one.problem))
const total = (what: 'bytes' | 'seconds') => fine.value.reduce((sum, one) => sum + (one[what] ?? 0), 0)
const problemOf = (id: string) =>
  report.value ? report.value.left_out.find((one) => one.picture_id === id)?.problem : planned.value.get(id)?.problem
function told(id: string): string {
  if (!wanted.value.includes(id)) return 'left out'
  if (report.value) {
    const delivery = report.value.deliveries.find((one) => one.picture_id === id)
    return problemOf(id) ?? (delivery ? `in the queue as ${delivery.name}` : 'being put into the queue')
  }
  const one = planned.value.get(id)
  if (!one) return ready.value ? 'planning' : ''
  return one.problem ?? `${pixelSize(one)} px · ${fileSize(one.bytes)} · ${about(one.seconds)}`
}
</script>

<template>
  <v-dialog v-model="open" max-width="760" aria-label="Deliver many">
    <v-card class="pa-5">
      <h2 class="mb-3">
        {{ report ? `${report.deliveries.length} of ${report.count} pictures are being delivered` : 'Deliver many' }}
      </h2>
      <form class="fields" @submit.prevent="order.mutate()">
        <template v-if="!report">
          <ChoiceRow class="wide" label="What is delivered" :choices="ways" :chosen="by" @choose="by = $event" />
          <template v-if="by === 'card'">
            <v-select
              v-if="cards.length"
              v-model="card"
              label="Card"
              :items="cards.map((one) => ({ value: one.id, title: one.name }))"
            />
            <p v-else class="quiet">There are no cards yet; save one on the bench.</p>
            <StrengthSlider
              label="Strength"
              :value="strength"
              unit="%"
              hint="How much of its restoring steps"
              @change="strength = $event"
            />
          </template>
          <v-select v-model="output" label="Written" :items="choices" />
          <v-select v-if="!saved" v-model="profile" label="Colour space" :items="colourSpaces('Keep each one’s')" />
        </template>
        <div v-if="!report && pictures.length > 1" class="wide d-flex ga-2 align-center">
          <span class="small quiet">{{ wanted.length }} of {{ pictures.length }} chosen</span>
          <v-btn size="x-small" variant="outlined" @click="wanted = pictures.map((one) => one.id)">All</v-btn>
          <v-btn size="x-small" variant="outlined" @click="wanted = []">None</v-btn>
        </div>
        <ul class="wide plan" aria-label="Plan">
          <li v-for="picture in pictures" :key="picture.id">
            <label>
              <input v-if="!report" v-model="wanted" type="checkbox" :value="picture.id" />
              <img :src="`/api/pictures/${picture.id}/preview`" alt="" />
              <strong>{{ picture.name }}</strong>
            </label>
            <span class="small" :class="problemOf(picture.id) ? 'fault' : 'quiet'">{{ told(picture.id) }}</span>
          </li>
        </ul>
        <p v-if="error || order.error.value" class="wide fault" role="alert">
          {{ (error ?? order.error.value)?.message }}
        </p>
        <p v-else-if="!report && fine.length" class="wide small estimate" role="status">
          {{ fine.length }} files, about {{ fileSize(total('bytes')) }}, {{ about(total('seconds')) }} on this machine;
          one after the other, and nothing else waits for them.
        </p>
        <p v-else-if="report" class="wide small quiet">
          Files go on being made when this is closed, or the page left.
          <RouterLink :to="{ name: 'deliveries' }">Deliveries</RouterLink> shows how far they are; there they are put in
          order, paused and called off. What could not be delivered stands beside its name.
        </p>
        <div class="wide d-flex justify-end ga-2">
          <v-btn @click="open = false">{{ report ? 'Close' : 'Cancel' }}</v-btn>
          <v-btn
            v-if="!report"
            type="submit"
            color="primary"
            variant="flat"
            :disabled="!fine.length || Boolean(error)"
            :loading="order.isPending.value"
          >
            Deliver {{ fine.length || '' }}
          </v-btn>
        </div>
      </form>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.plan {
  max-height: 300px;
  overflow-y: auto;
  padding: 2px 10px;
  list-style: none;
  border: 1px solid rgba(var(--v-theme-on-surface), 0.2);
  border-radius: 4px;
}
.plan li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1.1fr);
  gap: 12px;
  align-items: center;
  padding: 3px 0;
}
.plan label {
  display: flex;
  align-items: center;
  gap: 10px;
  min-width: 0;
}
.plan strong {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  font-weight: 500;
}
.plan input {
  accent-color: rgb(var(--v-theme-primary));
}
.plan img {
  width: 44px;
  height: 32px;
  object-fit: contain;
}
.estimate {
  padding: 8px 10px;
  background: rgb(var(--v-theme-background));
  border-radius: 4px;
}
</style>
