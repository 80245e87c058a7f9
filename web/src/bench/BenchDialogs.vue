<script setup lang="ts">
import { ref, watch } from 'vue'

import ApplyCard from '../cards/ApplyCard.vue'
import SaveCard from '../cards/SaveCard.vue'
import DeliverDialog from '../deliveries/DeliverDialog.vue'
import KeySheet from '../parts/KeySheet.vue'
import { useKeys, type Key } from '../parts/useKeys'
import { useNotice } from '../parts/useNotice'
import OnPage from '../prints/OnPage.vue'
import PrintPlanner from '../prints/PrintPlanner.vue'
import ScreenRuler from '../prints/ScreenRuler.vue'
import RehearsalDialog from '../rehearsals/RehearsalDialog.vue'
import type { Step } from '../takes/queries'
import { useBench } from './useBench'

/** What opens over the bench. */
defineProps<{ keys: Key[] }>()
const { address, open, take, picture, pictures, job, list, ppi, deliverable, change, settle, show, undo, rehearsed } =
  useBench()
const notice = useNotice()

/** What the print planner leaves free around the picture, mm; the delivery starts from it. */
const border = ref(0)
watch(
  () => address.pictureId,
  () => (border.value = 0),
)
function planned(steps: Step[], around: number, done: string) {
  border.value = around
  change(steps, true)
  notice.say(done, { label: 'Undo', run: undo })
}
async function applied(takeOf: Record<string, string>) {
  await list.refresh()
  const made = takeOf[address.pictureId]
  if (made) show(made)
}

useKeys(() => [
  { key: 'd', shown: 'D', does: 'deliver', group: 'prints and files', run: () => (open.delivery = deliverable.value) },
  {
    key: 'j',
    shown: 'J',
    does: 'print planner',
    group: 'prints and files',
    run: () => (open.printPlanner = deliverable.value),
  },
  {
    key: 'shift+e',
    shown: 'Shift E',
    does: 'rehearse what might suit the picture',
    group: 'steps',
    run: () => (open.rehearsal = true),
  },
  {
    key: '8',
    shown: '8',
    does: 'the print on a page or slide',
    group: 'prints and files',
    run: () => (open.page = true),
  },
])
</script>

<template>
  <KeySheet v-model="open.sheet" :keys="keys" />
  <SaveCard v-if="take" v-model="open.savingCard" :take="take" />
  <ApplyCard v-model="open.usingCard" :pictures="pictures ?? []" :only="address.pictureId" @applied="applied" />
  <PrintPlanner v-if="take" v-model="open.printPlanner" :take="take" :order="job?.order ?? null" @plan="planned" />
  <RehearsalDialog
    v-if="open.rehearsal"
    v-model="open.rehearsal"
    :picture-id="address.pictureId"
    :busy="rehearsed.isPending.value"
    @take="rehearsed.mutate($event)"
  />
  <ScreenRuler v-model="open.ruler" />
  <OnPage v-if="take?.plan" v-model="open.page" :take-id="take.id" :plan="take.plan" :ppi="ppi" />
  <DeliverDialog
    v-if="take && picture"
    v-model="open.delivery"
    :take="take"
    :job-id="address.jobId"
    :picture="picture"
    :ordered-ppi="job?.order?.ppi ?? null"
    :border="border"
    :settle="settle"
  />
</template>
