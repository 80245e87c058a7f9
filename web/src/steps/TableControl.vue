<script setup lang="ts">
import { mdiDelete, mdiDownload, mdiUpload } from '@mdi/js'
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'

import { answer, sendForm, server, type Schemas } from '../api/client'
import ChoiceRow from '../parts/ChoiceRow.vue'
import StrengthSlider from '../parts/StrengthSlider.vue'
import { useNotice } from '../parts/useNotice'
import { kindOf, type StepOf } from './kinds'
import { stepQueries } from './queries'

type Table = StepOf<'table'>
type OnShelf = Schemas['TableOut']

const props = defineProps<{ step: Table }>()
const emit = defineEmits<{ change: [step: Table, now?: boolean] }>()
const set = (changed: Partial<Table>, now?: boolean) => emit('change', { ...props.step, ...changed }, now)
const usual = kindOf('table').begun as Table
const notice = useNotice()

const client = useQueryClient()
const { data: tables } = useQuery(stepQueries.tables())
const chosen = computed(() => tables.value?.find(({ id }) => id === props.step.table))
const gone = computed(() => Boolean(props.step.table && tables.value && !chosen.value))
const take = ({ id, name }: OnShelf) => set({ table: id, name }, true)

const picker = ref<HTMLInputElement>()
const again = () => client.invalidateQueries({ queryKey: stepQueries.tables().queryKey })
const bring = useMutation({
  mutationFn: (file: File) => sendForm<OnShelf>('/api/tables', { file }),
  onSuccess: async (table) => {
    await again()
    take(table)
  },
  onError: (fault) => notice.fault(fault),
})
const takeDown = useMutation({
  mutationFn: async (id: string) => {
    await answer(server.DELETE('/api/tables/{name}', { params: { path: { name: id } } }))
  },
  onSuccess: async () => {
    set({ table: '', name: '' }, true)
    await again()
  },
  onError: (fault) => notice.fault(fault),
})
function picked(event: Event) {
  const input = event.target as HTMLInputElement
  if (input.files?.[0]) bring.mutate(input.files[0])
  input.value = ''
}
const spaces = [
  { value: 'srgb', title: 'sRGB', what: 'The table is meant for sRGB; wide colours go there and back' },
  { value: 'own', title: 'As coded', what: 'The table is applied to the values as the picture has them' },
] as const
</script>

<template>
  <div class="settings">
    <p v-if="tables && !tables.length" class="small quiet">
      No look-up table is on the shelf yet. Bring a .cube file; it stays for all jobs.
    </p>
    <v-select
      v-else
      :model-value="chosen ? step.table : null"
      :items="tables ?? []"
      item-title="name"
      item-value="id"
      label="Table"
      density="compact"
      hide-details
      @update:model-value="(id: string) => take(tables!.find((one) => one.id === id)!)"
    />
    <p v-if="gone" class="small warn" role="alert">“{{ step.name }}” is not on the shelf any more; bring it again.</p>
    <div class="tools">
      <v-btn
        size="small"
        :prepend-icon="mdiUpload"
        :loading="bring.isPending.value"
        title="Bring a .cube file"
        @click="picker?.click()"
        >Bring a table</v-btn
      >
      <input ref="picker" type="file" accept=".cube" hidden aria-label="Table file" @change="picked" />
      <v-btn
        v-if="chosen"
        :icon="mdiDownload"
        size="x-small"
        :href="`/api/tables/${chosen.id}/file`"
        aria-label="Save the table’s file"
        title="Save its file"
      />
      <v-btn
        v-if="chosen"
        :icon="mdiDelete"
        size="x-small"
        aria-label="Take the table off the shelf"
        title="Take it off the shelf, for all jobs"
        @click="takeDown.mutate(chosen.id)"
      />
    </div>
    <StrengthSlider
      label="Strength"
      :value="step.strength"
      :usual="usual.strength"
      @change="(strength, now) => set({ strength }, now)"
    />
    <ChoiceRow
      label="Meant for"
      :choices="[...spaces]"
      :chosen="step.space"
      @choose="(space) => set({ space: space as Table['space'] }, true)"
    />
  </div>
</template>

<style scoped>
.tools {
  display: flex;
  align-items: center;
  gap: 4px;
}
.warn {
  color: rgb(var(--v-theme-warning));
}
</style>
