<script setup lang="ts">
import ProofCard from '../proofs/ProofCard.vue'
import ClientCard from '../showings/ClientCard.vue'
import type { Plan, Take } from '../takes/queries'
import FidelityCard from './FidelityCard.vue'
import LaidCard from './LaidCard.vue'
import HistogramCard from './HistogramCard.vue'
import { useBench } from './useBench'

/** Cards that lie over the large view. */
defineProps<{ take: Take; plan: Plan }>()
const { address, open, panes, view } = useBench()
</script>

<template>
  <ProofCard v-if="panes.as === 'proof'" :take-id="take.id" :chain="plan.chain" @close="panes.showAs('proof')" />
  <HistogramCard v-if="open.histogram" :take-id="take.id" :chain="plan.chain" @close="open.histogram = false" />
  <LaidCard v-if="open.laid" :take="take" :plan="plan" @close="open.laid = false" />
  <ClientCard
    v-if="open.client"
    :picture-id="address.pictureId"
    :take-id="take.id"
    close-key="Shift N"
    @close="open.client = false"
    @look="view?.lookAt($event, 1)"
  />
  <FidelityCard
    v-if="open.fidelity"
    :take-id="take.id"
    :take-name="take.name"
    :plan="plan"
    @close="open.fidelity = false"
    @look="view?.lookAt($event, 1)"
  />
</template>
