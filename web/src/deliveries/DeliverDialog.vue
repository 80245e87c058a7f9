<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { mdiChevronDown, mdiChevronRight, mdiDownload } from '@mdi/js'
import { computed, ref, watch } from 'vue'

import type { Schemas } from '../api/client'
import { deliveryQueries } from './queries'
import { about, duration, fileSize, pixelSize } from '../parts/format'
import PaperLayout from './PaperLayout.vue'
import { bare, isBare } from './layout'
import DeliveryList from './DeliveryList.vue'
import OutputFields from './OutputFields.vue'
import SavedOutputs from './SavedOutputs.vue'
import { outputWarning, usualOutput, written, type Output } from './output'
import { heldText, unfinished, secondsLeft, useDeliveries, useDeliveryChanges, type OutputSpec } from './useDeliveries'
import { useFocusBack } from '../parts/useFocusBack'
import { useNow } from './useNow'
import { useDefaults } from '../settings/useDefaults'

const open = defineModel<boolean>({ required: true })
const props = defineProps<{
  take: Schemas['TakeOut']
  jobId: string
  picture: Schemas['PictureOut']
  orderedPpi: number | null
  /** Border of a planned print, mm. */
  border: number
  settle: () => Promise<void>
}>()

const card = ref<{ $el: HTMLElement }>()
const spec = ref<Output>({ ...usualOutput })
const also = ref<string[]>([])
const afterApproval = ref(false)
const paper = ref({ ...bare })
const papered = ref(false)
const ppi = ref('')
const name = ref('')
const ordered = ref<string[]>([])
const now = useNow()
const { defaults } = useDefaults()
const { order, cancel, retry } = useDeliveryChanges()
const { data: deliveries } = useDeliveries(() => props.jobId)
const made = computed(() => deliveries.value?.filter((one) => ordered.value.includes(one.id)) ?? [])
const delivery = computed(() => made.value[0])

const target = computed(() => props.take.steps.find((step) => step.kind === 'enlarge')?.target)
/** For each picture first as this person usually delivers; then as it was delivered last, and never as another one was. */
let begunFor = ''
watch([open, defaults], ([now, usual]) => {
  if (!now || begunFor === props.picture.id || !usual) return
  begunFor = props.picture.id
  use(usual.spec)
  papered.value = false
  paper.value = { ...paper.value, border_mm: props.border }
})
watch(open, (now) => {
  if (!now) return
  ordered.value = []
  also.value = []
  afterApproval.value = false
  order.reset()
  name.value = ''
  const wanted = target.value?.by === 'print' ? target.value.ppi : props.orderedPpi
  ppi.value = String(Math.round(wanted ?? props.picture.facts.ppi ?? defaults.value?.ppi ?? 300))
})

useFocusBack(
  open,
  () => [...(card.value?.$el.querySelectorAll<HTMLElement>('.v-btn') ?? [])].at(-1),
  () => delivery.value?.state,
)

/** Fill in a spec; the ppi stay those of this picture. */
function use({ layout, ...wanted }: OutputSpec) {
  spec.value = { ...usualOutput, ...wanted }
  paper.value = { ...bare, ...layout }
}

const full = computed(() => ({
  ...written(spec.value),
  ppi: Number(ppi.value.replace(',', '.')) || null,
  layout: isBare(paper.value) || spec.value.format === 'dng' ? null : { ...paper.value, panel: 1 },
}))
watch(
  () => props.border,
  (border_mm) => (paper.value = { ...paper.value, border_mm }),
)
const panels = computed(() => paper.value.panels_across * paper.value.panels_down)
const body = computed(() => ({ spec: full.value, name: name.value }))
const { data: estimate, error: refusal } = useQuery(
  computed(() => ({
    ...deliveryQueries.estimate(props.take.id, props.take.plan?.chain, body.value),
    enabled: open.value,
    placeholderData: keepPreviousData,
    retry: false,
  })),
)

const warning = computed(() => outputWarning(spec.value, props.picture.facts.profile))
const size = computed(() => props.take.plan?.size)
const printed = computed(() => {
  const per = full.value.ppi
  if (!size.value || !per) return ''
  const cm = (pixels: number) => ((pixels / per) * 2.54).toFixed(1)
  return `${cm(size.value.width)} × ${cm(size.value.height)} cm at ${per} ppi`
})

async function deliver() {
  await props.settle()
  const files = await order.mutateAsync({
    takeId: props.take.id,
    spec: full.value,
    name: name.value,
    outputs: also.value,
    after_approval: afterApproval.value,
  })
  ordered.value = files.map((one) => one.id)
}
</script>

<template>
  <v-dialog v-model="open" :max-width="ordered.length ? 640 : 820" aria-label="Deliver">
    <v-card ref="card" :class="ordered.length ? 'pa-5' : 'columns'">
      <template v-if="!ordered.length">
        <SavedOutputs v-model="also" :spec="full" @use="use" />
        <div class="pa-5 form">
          <h2>Deliver take {{ take.name }} of {{ picture.name }}</h2>
          <p v-if="size" class="quiet mb-4">{{ pixelSize(size) }} px · {{ printed }}</p>
          <form class="d-flex flex-column ga-3" @submit.prevent="deliver">
            <OutputFields
              v-model="spec"
              :kept="`Keep (${picture.facts.profile ?? 'untagged'})`"
              :raw="Boolean(picture.facts.raw)"
            >
              <v-text-field v-model="ppi" label="ppi" inputmode="decimal" />
              <v-text-field
                v-model="name"
                label="Name"
                :placeholder="estimate?.name"
                persistent-placeholder
                class="wide"
                maxlength="200"
                title="Words in braces are filled in: {picture}, {take}, {width} …"
              />
            </OutputFields>
            <v-btn
              v-if="spec.format !== 'dng'"
              class="around"
              variant="text"
              size="small"
              :prepend-icon="papered ? mdiChevronDown : mdiChevronRight"
              :aria-expanded="papered"
              @click="papered = !papered"
            >
              Border, canvas wrap, bleed, panels{{ isBare(paper) ? '' : ': in use' }}
            </v-btn>
            <PaperLayout v-if="papered && spec.format !== 'dng'" v-model="paper" />
            <footer class="foot d-flex flex-column ga-3">
              <p v-if="refusal || order.error.value" class="fault" role="alert">
                {{ (refusal ?? order.error.value)?.message }}
              </p>
              <p v-if="warning && !refusal" class="small warning" role="status">{{ warning }}</p>
              <p v-if="estimate && !refusal && !order.error.value" class="small estimate">
                <strong>{{ estimate.name }}</strong><template v-if="panels > 1">, {{ panels }} files</template> ·
                {{ pixelSize(estimate) }} px · {{ estimate.bits }} bit · about {{ fileSize(estimate.bytes) }} ·
                {{ about(estimate.seconds) }}
              </p>
              <div class="d-flex justify-end align-center ga-2">
                <v-checkbox-btn
                  v-model="afterApproval"
                  class="approval"
                  label="once the client approves"
                  title="It waits in the queue until a showing of exactly these steps is approved; it can be let go on by hand"
                />
                <v-spacer />
                <v-btn @click="open = false">Cancel</v-btn>
                <v-btn
                  type="submit"
                  color="primary"
                  variant="flat"
                  :loading="order.isPending.value"
                  :disabled="Boolean(refusal) || !take.plan"
                >
                  {{ also.length ? `Deliver ${also.length + 1}` : 'Deliver' }}
                </v-btn>
              </div>
            </footer>
          </form>
        </div>
      </template>
      <template v-else-if="made.length > 1">
        <h2 class="mb-2">{{ made.length }} files of take {{ take.name }}</h2>
        <DeliveryList :deliveries="made.toReversed()" />
        <div class="d-flex justify-end mt-4">
          <v-btn variant="outlined" @click="open = false">Back to the bench</v-btn>
        </div>
      </template>
      <template v-else-if="delivery">
        <h2>{{ delivery.name }}</h2>
        <template v-if="unfinished(delivery)">
          <p class="quiet my-3" role="status">
            {{
              delivery.state === 'queued'
                ? 'Waiting for the worker.'
                : delivery.state === 'paused'
                  ? `It ${heldText(delivery)}; the queue can let it go on.`
                  : `Rendering: ${Math.round(delivery.progress * 100)} %`
            }}
            <template v-if="secondsLeft(delivery, now) !== undefined">
              · {{ duration(secondsLeft(delivery, now)!) }} left</template
            >
          </p>
          <v-progress-linear
            color="primary"
            height="6"
            rounded
            :model-value="delivery.progress * 100"
            :indeterminate="delivery.state === 'queued'"
            aria-label="Progress"
          />
          <p class="small quiet mt-3">You can close this and go on working; the job shows every delivery.</p>
          <div class="d-flex justify-end ga-2 mt-4">
            <v-btn @click="cancel.mutate(delivery.id)">Cancel delivery</v-btn>
            <v-btn variant="outlined" @click="open = false">Close</v-btn>
          </div>
        </template>
        <template v-else-if="delivery.state === 'done'">
          <p class="my-3" role="status">
            Done: {{ pixelSize(delivery) }} px, {{ fileSize(delivery.bytes ?? 0) }}, in
            {{ duration(delivery.seconds ?? 0) }}.
          </p>
          <p class="small quiet digest">SHA-256 {{ delivery.sha256 }}</p>
          <div class="d-flex justify-end ga-2 mt-4">
            <v-btn @click="open = false">Back to the bench</v-btn>
            <v-btn
              color="primary"
              variant="flat"
              :prepend-icon="mdiDownload"
              :href="`/api/deliveries/${delivery.id}/file`"
              download
              >Download</v-btn
            >
          </div>
        </template>
        <template v-else>
          <p class="my-3" role="alert">
            {{ delivery.state === 'cancelled' ? 'Cancelled; no file was made.' : delivery.message }}
          </p>
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
.columns {
  display: grid;
  grid-template: minmax(0, 1fr) / 250px minmax(0, 1fr);
  max-height: 92vh;
}
.form {
  overflow-y: auto;
}
.around {
  align-self: start;
}
.estimate {
  padding: 8px 10px;
  background: rgb(var(--v-theme-background));
  border-radius: 4px;
  overflow-wrap: anywhere;
}
.warning {
  color: rgb(var(--v-theme-warning));
}
.foot {
  position: sticky;
  bottom: -20px;
  padding: 8px 0 20px;
  margin-bottom: -20px;
  background: rgb(var(--v-theme-surface));
}
.approval {
  flex: none;
  white-space: nowrap;
}
.digest {
  overflow-wrap: anywhere;
}
</style>
