<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { mdiClose } from '@mdi/js'
import { computed, ref } from 'vue'

import { proofQueries } from './queries'
import BenchCard from '../parts/BenchCard.vue'
import { intents } from '../deliveries/colourSpaces'
import { number } from '../parts/format'
import { useNotice } from '../parts/useNotice'
import { usePrinters, useProof } from './useProof'

const props = defineProps<{ takeId: string; chain: string }>()
defineEmits<{ close: [] }>()
const proof = useProof()
const { printers, bring, remove } = usePrinters()
const notice = useNotice()
const chooser = ref<HTMLInputElement>()

const {
  data: gamut,
  isFetching,
  error,
} = useQuery(computed(() => ({ ...proofQueries.gamut(props.takeId, props.chain, proof.printer), retry: false })))
const inks = { 1: 'grey', 3: 'RGB', 4: 'CMYK' } as Record<number, string>
const items = computed(
  () => printers.value?.map((one) => ({ value: one.id, title: `${one.name} (${inks[one.channels]})` })) ?? [],
)
const chosen = computed(() => printers.value?.find((one) => one.id === proof.printer))
const outside = computed(() => {
  const share = gamut.value?.outside ?? 0
  return share === 0
    ? 'All of its colours can be printed.'
    : `${share < 0.0005 ? 'less than 0.1' : number(share * 100, 1)} % of the picture cannot be printed in its colour.`
})

function brought(event: Event) {
  const input = event.target as HTMLInputElement
  const [file] = input.files ?? []
  input.value = ''
  if (file) bring.mutate(file, { onSuccess: (printer) => (proof.printer = printer.id), onError: notice.fault })
}
function takeAway() {
  const id = proof.printer
  proof.printer = 'made-up'
  remove.mutate(id, { onError: notice.fault })
}
</script>

<template>
  <BenchCard
    class="card"
    title="Soft proof"
    :state="isFetching ? 'computing' : ''"
    closes="Close the soft proof"
    close-key="Shift J"
    @close="$emit('close')"
  >
    <div class="printer">
      <v-select v-model="proof.printer" label="Printer" :items="items" />
      <v-btn
        v-if="chosen && !chosen.shipped"
        :icon="mdiClose"
        size="x-small"
        :aria-label="`Remove ${chosen.name}`"
        title="Take this printer off the list"
        @click="takeAway"
      />
    </div>
    <button class="add small" @click="chooser?.click()">Add a printer’s profile (.icc, .icm)</button>
    <input ref="chooser" type="file" accept=".icc,.icm" hidden aria-label="Printer profile" @change="brought" />
    <v-select v-model="proof.intent" label="Rendering intent" :items="intents" />
    <label class="small"><input v-model="proof.black_point" type="checkbox" /> black point compensation</label>
    <label class="small" title="Paper is never as white as a screen"
      ><input v-model="proof.paper" type="checkbox" /> show the paper’s white</label
    >
    <label class="small" title="Grey lies over colours the printer cannot print"
      ><input v-model="proof.warn" type="checkbox" /> gamut warning</label
    >
    <p class="small" :class="{ fault: error }" role="status">{{ error ? error.message : gamut ? outside : '' }}</p>
  </BenchCard>
</template>

<style scoped>
.card {
  left: 10px;
  top: 44px;
  width: 270px;
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.printer {
  display: flex;
  align-items: center;
  gap: 4px;
  margin-top: 4px;
}
.add {
  align-self: start;
  text-decoration: underline dotted;
  cursor: pointer;
}
.add + * + .v-input {
  margin-top: 6px;
}
label {
  display: flex;
  gap: 8px;
  align-items: center;
}
</style>
