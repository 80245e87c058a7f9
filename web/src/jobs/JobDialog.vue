<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import type { Job, JobDraft } from './useJobs'

const open = defineModel<boolean>({ required: true })
const props = defineProps<{ job?: Job; busy: boolean; fault?: string }>()
const emit = defineEmits<{ save: [job: JobDraft] }>()

const title = ref('')
const client = ref('')
const note = ref('')
const printed = ref(false)
const width = ref('60')
const height = ref('90')
const unit = ref<'mm' | 'cm' | 'in'>('cm')
const ppi = ref('240')
const space = ref<NonNullable<JobDraft['space']>>('prophoto-rgb')
const spaces: { value: NonNullable<JobDraft['space']>; title: string }[] = [
  { value: 'prophoto-rgb', title: 'ProPhoto RGB, the widest' },
  { value: 'rec2020-rgb', title: 'Rec. 2020, for screens and film' },
]

watch(open, (now) => {
  if (!now) return
  const job = props.job
  title.value = job?.title ?? ''
  client.value = job?.client ?? ''
  note.value = job?.note ?? ''
  printed.value = Boolean(job?.order)
  width.value = String(job?.order?.width ?? 60)
  height.value = String(job?.order?.height ?? 90)
  unit.value = job?.order?.unit ?? 'cm'
  space.value = job?.space ?? 'prophoto-rgb'
  ppi.value = String(job?.order?.ppi ?? 240)
})

const numeric = (text: string) => Number(text.replace(',', '.'))
const usable = computed(
  () => title.value.trim() && (!printed.value || [width, height, ppi].every((field) => numeric(field.value) > 0)),
)

function save() {
  if (!usable.value) return
  emit('save', {
    title: title.value.trim(),
    client: client.value.trim(),
    note: note.value,
    space: space.value,
    order: printed.value
      ? { width: numeric(width.value), height: numeric(height.value), unit: unit.value, ppi: numeric(ppi.value) }
      : null,
  })
}
</script>

<template>
  <v-dialog v-model="open" max-width="480" :aria-label="job ? 'Change the job' : 'New job'">
    <v-card class="pa-5">
      <form class="d-flex flex-column ga-3" @submit.prevent="save">
        <h2>{{ job ? 'Change the job' : 'New job' }}</h2>
        <v-text-field v-model="title" label="Title" autofocus maxlength="120" />
        <v-text-field v-model="client" label="Client" maxlength="120" />
        <v-checkbox v-model="printed" label="A print was ordered" />
        <div v-if="printed" class="order">
          <v-text-field v-model="width" label="Width" inputmode="decimal" />
          <span>×</span>
          <v-text-field v-model="height" label="Height" inputmode="decimal" />
          <v-select v-model="unit" :items="['mm', 'cm', 'in']" label="Unit" />
          <v-text-field v-model="ppi" label="ppi" inputmode="decimal" />
        </div>
        <v-select
          v-model="space"
          :items="spaces"
          label="Camera raws are developed to"
          hint="Chosen once: it stays when the job has a raw"
          persistent-hint
          class="mb-2"
        />
        <v-textarea v-model="note" label="Note" rows="2" auto-grow />
        <p v-if="fault" role="alert" class="fault">{{ fault }}</p>
        <div class="d-flex ga-2 justify-end">
          <v-btn @click="open = false">Cancel</v-btn>
          <v-btn type="submit" color="primary" variant="flat" :disabled="!usable" :loading="busy">
            {{ job ? 'Save' : 'Begin job' }}
          </v-btn>
        </div>
      </form>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.order {
  display: grid;
  grid-template-columns: 1fr auto 1fr 82px 76px;
  gap: 8px;
  align-items: center;
}
</style>
