<script setup lang="ts">
import { computed } from 'vue'

import { number } from '../parts/format'
import BenchCard from '../parts/BenchCard.vue'
import type { Plan } from '../viewer/layer'
import { useReport } from './useReport'

const props = defineProps<{ takeId: string; takeName: string; plan: Plan }>()
const emit = defineEmits<{ close: []; look: [place: { x: number; y: number }] }>()

const { report, ask } = useReport(
  () => props.takeId,
  () => props.plan.chain,
)
const working = computed(() => ask.isPending.value || ['queued', 'running'].includes(report.value?.state ?? ''))
const words = { fine: 'fine', look: 'have a look', problem: 'a problem' }
const bands = ['finest', 'middle', 'coarse']
</script>

<template>
  <BenchCard
    class="card small"
    title="Fidelity"
    :heading="`Fidelity of ${takeName}`"
    closes="Close the fidelity report"
    close-key="Y"
    @close="emit('close')"
  >
    <template v-if="report?.found">
      <ul>
        <li v-for="finding in report.found.findings" :key="finding.measure" :class="finding.word">
          <span class="word">{{ words[finding.word] }}</span>
          <span class="title"
            ><strong>{{ finding.title }}</strong> {{ number(finding.value, 2) }} {{ finding.unit }}</span
          >
          <span class="quiet says">{{ finding.says }}</span>
          <span v-if="finding.word !== 'fine' || finding.measure === 'return'" class="places">
            worst at
            <button
              v-for="place in finding.places"
              :key="`${place.x} ${place.y}`"
              :title="`${number(place.value, 2)} ${finding.unit}`"
              @click="emit('look', place)"
            >
              {{ place.x }}, {{ place.y }}
            </button>
          </span>
        </li>
      </ul>
      <p class="quiet">
        Structure {{ number(report.found.structure, 3) }}, over {{ report.found.areas }} areas.
        <template v-if="report.found.bands.length"
          >Texture kept:
          <template v-for="(share, index) in report.found.bands" :key="index"
            >{{ index ? ', ' : '' }}{{ bands[index] }} {{ number(share * 100, 0) }} %</template
          >.</template
        >
      </p>
    </template>
    <template v-else>
      <p class="quiet">
        Brings the result back to the source's size and tells what was lost, added or shifted, and where.
      </p>
      <p v-if="report?.state === 'failed'" role="alert">{{ report.message }}</p>
      <v-progress-linear
        v-if="working"
        :model-value="(report?.progress ?? 0) * 100"
        :indeterminate="report?.state !== 'running'"
        height="4"
        aria-label="Measuring"
      />
      <p v-if="working" role="status">
        {{
          report?.state === 'running'
            ? `measuring, ${Math.round((report.progress ?? 0) * 100)} %`
            : 'waiting for the worker'
        }}
      </p>
      <v-btn v-else-if="report" color="primary" variant="flat" size="small" @click="ask.mutate()">{{
        report?.state === 'failed' ? 'Try again' : 'Measure'
      }}</v-btn>
    </template>
  </BenchCard>
</template>

<style scoped>
.card {
  right: 10px;
  top: 10px;
  width: 330px;
  max-height: calc(100% - 56px);
  overflow-y: auto;
}
ul {
  list-style: none;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: 88px 1fr;
  gap: 0 8px;
  padding: 5px 0;
  border-top: 1px solid rgba(var(--v-theme-on-surface), 0.12);
}
.word {
  align-self: start;
  padding: 0 6px;
  text-align: center;
  border: 1px solid rgba(var(--v-theme-on-surface), 0.3);
  border-radius: 9px;
}
.look .word {
  border-color: rgb(var(--v-theme-warning));
  color: rgb(var(--v-theme-warning));
}
.problem .word {
  border-color: rgb(var(--v-theme-error));
  color: rgb(var(--v-theme-error));
  font-weight: 600;
}
.says,
.places {
  grid-column: 2;
}
.places button {
  margin-right: 8px;
  text-decoration: underline;
  cursor: pointer;
}
p {
  margin: 6px 0;
}
</style>
