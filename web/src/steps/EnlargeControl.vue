<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'

import { api, type Schemas } from '../api/client'
import { orderText, turnedOrder } from '../jobs/order'
import { parseTarget, targetText, type Target } from './target'

type Enlarge = Extract<Schemas['TakeOut']['steps'][number], { kind?: 'enlarge' }>

const props = defineProps<{
  step: Enlarge
  take: Schemas['TakeOut']
  job?: Schemas['JobOut']
}>()
const emit = defineEmits<{ change: [step: Enlarge, now?: boolean] }>()

const { data: engines } = useQuery({
  queryKey: ['engines'],
  queryFn: () => api.get<Schemas['EngineOut'][]>('/engines'),
  staleTime: Infinity,
})

const factors = [1.5, 2, 3, 4, 6, 8]
const size = ref('')
const ppi = ref('')
const fault = ref('')

watch(
  () => props.step.target,
  (target) => {
    size.value = targetText(target)
    fault.value = ''
    if (target?.by === 'print') ppi.value = String(target.ppi)
    else if (!ppi.value) ppi.value = String(props.job?.order?.ppi ?? 300)
  },
  { immediate: true },
)

const factor = computed(() => (props.step.target?.by === 'factor' ? props.step.target.factor : null))
const print = computed(() => props.step.target?.by === 'print')

function set(target: Target) {
  emit('change', { ...props.step, target }, true)
}

function typed() {
  const target = parseTarget(size.value, Number(ppi.value.replace(',', '.')) || 300)
  if (!target) {
    fault.value = 'Write a size like ×4, 250 %, 4000 px, 60 × 90 cm or 24 in.'
    return
  }
  fault.value = ''
  if (JSON.stringify(target) !== JSON.stringify(props.step.target)) set(target)
}

function toOrder() {
  const size = props.take.plan?.framed
  if (!props.job?.order || !size) return
  const order = turnedOrder(props.job.order, size)
  set({ by: 'print', width: order.width, height: order.height, unit: order.unit ?? 'cm', ppi: order.ppi ?? 300, mode: 'fit' })
}
</script>

<template>
  <div class="stack">
    <v-text-field v-model="size" label="Size" :error-messages="fault" placeholder="×4, 4000 px, 60 × 90 cm"
      @keydown.enter="typed" @blur="typed" />
    <div class="factors" role="group" aria-label="Factor">
      <button v-for="one in factors" :key="one" :aria-pressed="factor === one" @click="set({ by: 'factor', factor: one })">×{{ one }}</button>
    </div>
    <v-btn v-if="job?.order" size="small" variant="outlined" class="to-order" @click="toOrder">To the order: {{ orderText(job.order) }}</v-btn>
    <v-text-field v-if="print" v-model="ppi" label="Print at ppi" inputmode="decimal" @keydown.enter="typed" @blur="typed" />
    <fieldset>
      <legend class="small quiet">Engine</legend>
      <label v-for="engine in engines" :key="engine.id" class="engine" :class="{ chosen: engine.id === step.engine }">
        <input type="radio" name="engine" :value="engine.id" :checked="engine.id === step.engine"
          @change="emit('change', { ...step, engine: engine.id }, true)" />
        <span><strong>{{ engine.name }}</strong><span class="small quiet">{{ engine.purpose }}</span></span>
      </label>
    </fieldset>
  </div>
</template>

<style scoped>
.stack {
  display: flex;
  flex-direction: column;
  gap: 10px;
}
.factors {
  display: grid;
  grid-template-columns: repeat(6, 1fr);
  border: 1px solid rgba(var(--v-theme-on-surface), 0.3);
  border-radius: 4px;
  overflow: hidden;
}
.factors button {
  padding: 4px 0;
  font-size: 13px;
  text-align: center;
  cursor: pointer;
}
.factors button + button {
  border-left: 1px solid rgba(var(--v-theme-on-surface), 0.3);
}
.factors button[aria-pressed='true'] {
  background: rgb(var(--v-theme-primary));
  color: rgb(var(--v-theme-on-primary));
  font-weight: 600;
}
.to-order {
  white-space: normal;
}
fieldset {
  border: 0;
  padding: 0;
}
.engine {
  display: grid;
  grid-template-columns: 20px 1fr;
  padding: 6px 6px 6px 4px;
  cursor: pointer;
  border-left: 2px solid transparent;
}
.engine.chosen {
  border-color: rgb(var(--v-theme-primary));
  background: rgba(var(--v-theme-on-surface), 0.06);
}
.engine span span {
  display: block;
}
input[type='radio'] {
  align-self: start;
  margin: 4px 0 0;
  accent-color: rgb(var(--v-theme-primary));
}
</style>
