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
const { address, open, panes, view, clientNotes } = useBench()
</script>

<template>
  <ProofCard v-if="panes.as === 'proof'" :take-id="take.id" :chain="plan.chain" @close="panes.showAs('proof')" />
  <HistogramCard v-if="open.histogram" :take-id="take.id" :chain="plan.chain" @close="open.histogram = false" />
  <LaidCard v-if="open.laid" :take="take" :plan="plan" @close="open.laid = false" />
  <button
    v-if="clientNotes.length && !open.client"
    class="client small"
    title="What the client noted (Shift N)"
    @click="open.client = true"
  >
    client notes ({{ clientNotes.filter((one) => !one.done).length }})
  </button>
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

<style scoped>
.client {
  position: absolute;
  left: 10px;
  bottom: 10px;
  padding: 2px 10px;
  color: #fff;
  background: rgba(0, 0, 0, 0.72);
  border-radius: 3px;
  cursor: pointer;
}
</style>
