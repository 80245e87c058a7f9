<script setup lang="ts">
import { computed } from 'vue'

import { number } from '../parts/format'
import BeforeAfter from './BeforeAfter.vue'
import { figuresOf } from './quality'
import type { Engine } from './useEngines'

const props = defineProps<{ engine: Engine; measuring: boolean }>()
const emit = defineEmits<{ measure: []; remove: [] }>()

const sample = (side: string) =>
  `/api/engines/${props.engine.id}/sample/${side}.webp?v=${encodeURIComponent(props.engine.fingerprint)}`
const quality = computed(() => figuresOf(props.engine))
const enlarges = computed(() => props.engine.kind === 'enlarge')

/** Speed as people meet it: what comes out in a second. */
const speed = computed(() => {
  const source = props.engine.source_megapixels_per_second
  if (!source) return null
  const factor = props.engine.factors.includes(4) ? 4 : props.engine.factors.at(-1)!
  const out = source * factor * factor
  return enlarges.value
    ? `${number(out, out < 1 ? 2 : 1)} megapixels a second at ×${factor}`
    : `${number(source, 2)} megapixels a second`
})
const provider = computed(() =>
  props.engine.provider?.replace('ExecutionProvider', '').replace(/CPU|OpenVINO/, 'the processor'),
)
const trained = computed(() => {
  const training = props.engine.training as {
    steps?: number
    minutes_on_two_cores?: number
    weights?: number
    pictures?: string
  }
  return training.steps
    ? `${training.steps.toLocaleString('en')} steps, ${training.minutes_on_two_cores} min on two cores`
    : ''
})
</script>

<template>
  <article class="card" :aria-label="engine.name">
    <BeforeAfter
      v-if="engine.network"
      :before="sample('before')"
      :after="sample('after')"
      :before-name="enlarges ? 'plain' : 'before'"
      :after-name="engine.name"
    />
    <div v-else class="plain quiet small">What every other engine is compared with on this page.</div>
    <div class="text">
      <h2>
        {{ engine.name
        }}<span v-if="engine.own" class="small quiet own">{{
          engine.brought_by ? `brought by ${engine.brought_by}` : 'brought here'
        }}</span>
      </h2>
      <p>{{ engine.purpose }}</p>
      <p v-if="engine.print" class="small">{{ engine.print }}</p>
      <p v-else-if="engine.own && !quality.figures.length" class="small quiet">Its quality has not been measured.</p>
      <p class="small facts">
        <span v-if="enlarges && engine.factors.length">×{{ engine.factors.join(' ×') }}</span>
        <span v-if="engine.network" role="status">
          <template v-if="measuring">measuring …</template>
          <template v-else-if="speed">{{ speed }} on {{ provider }}</template>
          <template v-else>not measured yet, runs on {{ provider }}</template>
        </span>
      </p>
      <details v-if="quality.figures.length || trained" class="small">
        <summary>Figures</summary>
        <table v-if="quality.figures.length" class="small">
          <caption class="quiet">
            {{
              quality.pictures
            }}
          </caption>
          <tbody>
            <tr v-for="figure in quality.figures" :key="figure.measure">
              <th scope="row">{{ figure.measure }}</th>
              <td>
                <b>{{ figure.value }}</b>
              </td>
              <td class="quiet">{{ figure.against }}</td>
            </tr>
          </tbody>
        </table>
        <p v-if="trained" class="quiet">Trained for {{ trained }}.</p>
      </details>
      <div v-if="engine.network" class="foot">
        <v-btn size="small" :disabled="measuring" @click="emit('measure')"
          >Measure {{ speed ? 'again' : 'its speed' }}</v-btn
        >
        <v-btn v-if="engine.removable" size="small" @click="emit('remove')">Take off the shelf</v-btn>
      </div>
    </div>
  </article>
</template>

<style scoped>
.card {
  display: flex;
  flex-direction: column;
  background: rgb(var(--v-theme-surface));
  border: 1px solid rgba(var(--v-theme-on-surface), 0.12);
  border-radius: 6px;
  padding: 10px;
}
.plain {
  aspect-ratio: 3 / 2;
  display: grid;
  place-items: center;
  padding: 32px;
  text-align: center;
  background: rgb(var(--v-theme-background));
  border-radius: 3px;
}
summary {
  width: max-content;
  cursor: pointer;
  text-decoration: underline dotted rgba(var(--v-theme-on-surface), 0.5);
  text-underline-offset: 3px;
}
.text {
  display: flex;
  flex-direction: column;
  gap: 6px;
  padding: 10px 4px 2px;
  flex: 1;
}
.own {
  margin-left: 10px;
  font-weight: 400;
}
table {
  border-collapse: collapse;
  width: 100%;
}
caption {
  text-align: left;
  padding-bottom: 2px;
}
th {
  text-align: left;
  font-weight: 400;
}
th,
td {
  padding: 2px 8px 2px 0;
  vertical-align: baseline;
  border-top: 1px solid rgba(var(--v-theme-on-surface), 0.1);
}
td:last-child {
  padding-right: 0;
  text-align: right;
}
.facts {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  margin-top: auto;
  padding-top: 4px;
}
.foot {
  display: flex;
  gap: 4px;
  margin-left: -10px;
}
</style>
