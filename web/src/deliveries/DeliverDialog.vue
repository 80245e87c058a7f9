<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { mdiChevronDown, mdiChevronRight, mdiDownload } from '@mdi/js'
import { computed, reactive, ref, watch } from 'vue'

import { api, type Schemas } from '../api/client'
import { duration, fileSize, pixelSize } from '../shell/format'
import PaperLayout from './PaperLayout.vue'
import { bare, isBare } from './layout'
import { colourSpaces, intents } from './colourSpaces'
import { unfinished, secondsLeft, useDeliveries, useDeliveryChanges, type OutputSpec } from './useDeliveries'
import { useNow } from './useNow'
import { useDefaults } from '../settings/useDefaults'

type Estimate = Schemas['Estimate']

const open = defineModel<boolean>({ required: true })
const props = defineProps<{
  take: Schemas['TakeOut']
  jobId: string
  picture: Schemas['PictureOut']
  orderedPpi: number | null
  settle: () => Promise<void>
}>()

const spec = reactive({
  format: 'tiff' as NonNullable<OutputSpec['format']>,
  depth: 16 as 8 | 16,
  compression: 'zip' as NonNullable<OutputSpec['compression']>,
  quality: 92,
  lossless: false,
  chroma: 'full' as NonNullable<OutputSpec['chroma']>,
  profile: 'keep' as NonNullable<OutputSpec['profile']>,
  intent: 'relative' as NonNullable<OutputSpec['intent']>,
  black_point: true,
  metadata: true,
  location: true,
  tiled: false,
})
const paper = ref({ ...bare })
const papered = ref(false)
const ppi = ref('')
const name = ref('')
const ordered = ref<string | null>(null)
const now = useNow()
const { defaults } = useDefaults()
const { order, cancel, retry } = useDeliveryChanges()
const { data: deliveries } = useDeliveries(() => props.jobId)
const delivery = computed(() => deliveries.value?.find((one) => one.id === ordered.value))

const target = computed(() => props.take.steps.find((step) => step.kind === 'enlarge')?.target)
/** The first time, as this person usually delivers; then as the last time on this page. */
let begun = false
watch([open, defaults], ([now, usual]) => {
  if (!now || begun || !usual) return
  begun = true
  Object.assign(spec, { ...usual.spec, ppi: undefined })
})
watch(open, (now) => {
  if (!now) return
  ordered.value = null
  order.reset()
  name.value = ''
  const wanted = target.value?.by === 'print' ? target.value.ppi : props.orderedPpi
  ppi.value = String(Math.round(wanted ?? props.picture.facts.ppi ?? defaults.value?.ppi ?? 300))
})

const holds16 = computed(() => spec.format === 'tiff' || spec.format === 'png')
const full = computed(() => ({
  ...spec,
  depth: holds16.value ? spec.depth : (8 as const),
  ppi: Number(ppi.value.replace(',', '.')) || null,
  layout: isBare(paper.value) ? null : { ...paper.value, panel: 1 },
}))
const panels = computed(() => paper.value.panels_across * paper.value.panels_down)
const body = computed(() => ({ spec: full.value, name: name.value }))
const { data: estimate, error: refusal } = useQuery({
  queryKey: ['estimate', () => props.take.id, () => props.take.plan?.chain, body],
  queryFn: () => api.post<Estimate>(`/takes/${props.take.id}/estimate`, body.value),
  enabled: open,
  placeholderData: (before) => before,
  retry: false,
})

const size = computed(() => props.take.plan?.size)
const printed = computed(() => {
  const per = full.value.ppi
  if (!size.value || !per) return ''
  const cm = (pixels: number) => ((pixels / per) * 2.54).toFixed(1)
  return `${cm(size.value.width)} × ${cm(size.value.height)} cm at ${per} ppi`
})

async function deliver() {
  await props.settle()
  const made = await order.mutateAsync({ takeId: props.take.id, spec: full.value, name: name.value })
  ordered.value = made.id
}

const formats = [
  { value: 'tiff', title: 'TIFF' },
  { value: 'png', title: 'PNG' },
  { value: 'jpeg', title: 'JPEG' },
  { value: 'webp', title: 'WebP' },
]
</script>

<template>
  <v-dialog v-model="open" max-width="560">
    <v-card class="pa-5" aria-label="Deliver">
      <template v-if="!ordered">
        <h2>Deliver take {{ take.name }} of {{ picture.name }}</h2>
        <p v-if="size" class="quiet mb-4">{{ pixelSize(size) }} px · {{ printed }}</p>
        <form class="fields" @submit.prevent="deliver">
          <v-btn-toggle v-model="spec.format" mandatory density="comfortable" variant="outlined" class="wide" aria-label="Format">
            <v-btn v-for="one in formats" :key="one.value" :value="one.value">{{ one.title }}</v-btn>
          </v-btn-toggle>
          <v-select v-if="holds16" v-model="spec.depth" label="Depth"
            :items="[{ value: 16, title: '16 bit' }, { value: 8, title: '8 bit' }]" />
          <v-select v-if="spec.format === 'tiff'" v-model="spec.compression" label="Compression"
            :items="[{ value: 'zip', title: 'ZIP, lossless' }, { value: 'lzw', title: 'LZW, lossless' }, { value: 'none', title: 'None' }]" />
          <div v-if="!holds16 && !spec.lossless" class="quality">
            <label id="quality-label" class="small">Quality {{ spec.quality }}</label>
            <v-slider v-model="spec.quality" :min="40" :max="100" :step="1" aria-labelledby="quality-label" />
          </div>
          <v-select v-if="spec.format === 'jpeg'" v-model="spec.chroma" label="Chroma"
            :items="[{ value: 'full', title: '4:4:4, full' }, { value: 'half', title: '4:2:0, half' }]" />
          <v-checkbox v-if="spec.format === 'webp'" v-model="spec.lossless" label="Lossless" />
          <v-select v-model="spec.profile" label="Colour space" :items="colourSpaces(`Keep (${picture.facts.profile ?? 'untagged'})`)" />
          <v-select v-if="spec.profile !== 'keep'" v-model="spec.intent" label="Rendering intent" :items="intents" />
          <v-checkbox v-if="spec.profile !== 'keep'" v-model="spec.black_point" label="Black point compensation" title="Black of one space becomes black of the other" />
          <v-text-field v-model="ppi" label="ppi" inputmode="decimal" />
          <v-text-field v-model="name" label="Name" :placeholder="estimate?.name" persistent-placeholder class="wide" maxlength="200" />
          <v-checkbox v-if="spec.format === 'tiff'" v-model="spec.tiled" class="wide" label="In tiles" title="256 × 256 px tiles instead of strips: quick to open in part" />
          <v-checkbox v-model="spec.metadata" class="wide" label="Keep camera and caption data (EXIF, XMP, IPTC)" />
          <v-checkbox v-if="spec.metadata" v-model="spec.location" class="wide" label="Keep where it was taken" />
          <v-btn class="wide around" variant="text" size="small" :prepend-icon="papered ? mdiChevronDown : mdiChevronRight" :aria-expanded="papered" @click="papered = !papered">
            Border, canvas wrap, bleed, panels{{ isBare(paper) ? '' : ': in use' }}
          </v-btn>
          <PaperLayout v-if="papered" v-model="paper" class="wide" />
          <p v-if="refusal || order.error.value" class="wide fault" role="alert">{{ (refusal ?? order.error.value)?.message }}</p>
          <p v-else-if="estimate" class="wide small estimate">
            <strong>{{ estimate.name }}</strong><template v-if="panels > 1">, {{ panels }} files</template> · {{ pixelSize(estimate) }} px · {{ estimate.bits }} bit · about {{ fileSize(estimate.bytes) }} ·
            about {{ duration(estimate.seconds) }}
          </p>
          <div class="wide d-flex justify-end ga-2">
            <v-btn @click="open = false">Cancel</v-btn>
            <v-btn type="submit" color="primary" variant="flat" :loading="order.isPending.value" :disabled="Boolean(refusal) || !take.plan">
              Deliver
            </v-btn>
          </div>
        </form>
      </template>
      <template v-else-if="delivery">
        <h2>{{ delivery.name }}</h2>
        <template v-if="unfinished(delivery)">
          <p class="quiet my-3" role="status">
            {{ delivery.state === 'queued' ? 'Waiting for the worker.' : `Rendering: ${Math.round(delivery.progress * 100)} %` }}
            <template v-if="secondsLeft(delivery, now) !== undefined"> · {{ duration(secondsLeft(delivery, now)!) }} left</template>
          </p>
          <v-progress-linear color="primary" height="6" rounded :model-value="delivery.progress * 100"
            :indeterminate="delivery.state === 'queued'" aria-label="Progress" />
          <p class="small quiet mt-3">You can close this and go on working; the job shows every delivery.</p>
          <div class="d-flex justify-end ga-2 mt-4">
            <v-btn @click="cancel.mutate(delivery.id)">Cancel delivery</v-btn>
            <v-btn variant="outlined" @click="open = false">Close</v-btn>
          </div>
        </template>
        <template v-else-if="delivery.state === 'done'">
          <p class="my-3" role="status">Done: {{ pixelSize(delivery) }} px, {{ fileSize(delivery.bytes ?? 0) }}, in {{ duration(delivery.seconds ?? 0) }}.</p>
          <p class="small quiet digest">SHA-256 {{ delivery.sha256 }}</p>
          <div class="d-flex justify-end ga-2 mt-4">
            <v-btn @click="open = false">Back to the bench</v-btn>
            <v-btn color="primary" variant="flat" :prepend-icon="mdiDownload" :href="`/api/deliveries/${delivery.id}/file`" download>Download</v-btn>
          </div>
        </template>
        <template v-else>
          <p class="my-3" role="alert">{{ delivery.state === 'cancelled' ? 'Cancelled; no file was made.' : delivery.message }}</p>
          <div class="d-flex justify-end ga-2 mt-4">
            <v-btn @click="open = false">Close</v-btn>
            <v-btn variant="outlined" @click="retry.mutate(delivery.id)">Try again</v-btn>
          </div>
        </template>
      </template>
      <v-progress-linear v-else indeterminate />
    </v-card>
  </v-dialog>
</template>

<style scoped>
.fields {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 14px;
  align-items: center;
}
.wide {
  grid-column: 1 / -1;
}
.fault {
  color: rgb(var(--v-theme-error));
}
.around {
  justify-self: start;
}
.estimate {
  padding: 8px 10px;
  background: rgb(var(--v-theme-background));
  border-radius: 4px;
  overflow-wrap: anywhere;
}
.digest {
  overflow-wrap: anywhere;
}
</style>
