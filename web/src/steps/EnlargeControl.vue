<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import type { Schemas } from '../api/client'
import { useEnginesOf } from '../engines/useEngines'
import { orderText, turnedOrder } from '../jobs/order'
import { number } from '../parts/format'
import ChoiceRow from '../parts/ChoiceRow.vue'
import EngineChoice from './EngineChoice.vue'
import PassesChoice from './PassesChoice.vue'
import StrengthSlider from '../parts/StrengthSlider.vue'
import { parseTarget, targetText, type Target } from './target'
import { shiftWord, useColourShift } from './useColourShift'
import { kindOf, type StepOf } from './kinds'

type Enlarge = StepOf<'enlarge'>

const props = defineProps<{
  step: Enlarge
  take: Schemas['TakeOut']
  job?: Schemas['JobOut']
}>()
const emit = defineEmits<{ change: [step: Enlarge, now?: boolean]; laid: [] }>()

const engines = useEnginesOf('enlarge')
const seconds = computed(() => [
  { value: '', title: 'nothing' },
  ...engines.value
    .filter((engine) => engine.id !== props.step.engine)
    .map((engine) => ({ value: engine.id, title: engine.name })),
])
const { data: drift, isFetching: measuring, error: unmeasured } = useColourShift(() => props.take, true)

function blendWith(engine: string) {
  emit(
    'change',
    {
      ...props.step,
      blend: engine
        ? {
            engine,
            weight: props.step.blend?.weight ?? (kindOf('enlarge').usual.blend![''] as { weight: number }).weight,
          }
        : null,
    },
    true,
  )
}
function choose(engine: string) {
  emit('change', { ...props.step, engine, blend: props.step.blend?.engine === engine ? null : props.step.blend }, true)
}

const factors = [1.5, 2, 3, 4, 6, 8].map((value) => ({ value, title: `×${value}` }))
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

/** What was typed is taken, and keys are the bench's again. */
function leave(event: Event) {
  ;(event.target as HTMLInputElement).blur()
}

function toOrder() {
  const size = props.take.plan?.framed
  if (!props.job?.order || !size) return
  const order = turnedOrder(props.job.order, size)
  set({
    by: 'print',
    width: order.width,
    height: order.height,
    unit: order.unit ?? 'cm',
    ppi: order.ppi ?? 300,
    mode: 'fit',
  })
}
const usual = kindOf('enlarge').begun as StepOf<'enlarge'>
</script>

<template>
  <div class="settings">
    <v-text-field
      v-model="size"
      label="Size"
      :error-messages="fault"
      placeholder="×4, 4000 px, 60 × 90 cm"
      @keydown.enter="leave"
      @blur="typed"
    />
    <ChoiceRow
      label="Factor"
      :choices="factors"
      :chosen="factor"
      @choose="(one) => set({ by: 'factor', factor: one })"
    />
    <v-btn v-if="job?.order" size="small" variant="outlined" class="to-order" @click="toOrder"
      >To the order: {{ orderText(job.order) }}</v-btn
    >
    <v-text-field
      v-if="print"
      v-model="ppi"
      label="Print at ppi"
      inputmode="decimal"
      @keydown.enter="leave"
      @blur="typed"
    />
    <EngineChoice kind="enlarge" :chosen="step.engine" @choose="choose" />
    <v-select
      :model-value="step.blend?.engine ?? ''"
      :items="seconds"
      label="Blend with"
      @update:model-value="blendWith"
    />
    <StrengthSlider
      v-if="step.blend"
      label="Share of the second"
      unit="%"
      :value="step.blend.weight"
      @change="(weight, now) => emit('change', { ...step, blend: { engine: step.blend!.engine, weight } }, now)"
    />
    <StrengthSlider
      label="Hold tone and colour"
      :value="step.hold"
      :usual="usual.hold"
      hint="Draws broad tones back to the source's; detail stays"
      @change="(hold, now) => emit('change', { ...step, hold }, now)"
    />
    <PassesChoice
      v-if="step.engine !== 'plain' || step.blend"
      :passes="step.passes"
      @change="(passes) => emit('change', { ...step, passes }, true)"
    />
    <p class="small drift" aria-live="polite" aria-label="Drift">
      <template v-if="measuring">measuring the drift of tone and colour …</template>
      <template v-else-if="drift">
        drift ΔE {{ number(drift.mean) }} on average, {{ number(drift.most) }} at most
        <span class="quiet">{{ shiftWord(drift.most) }}, at {{ drift.x }}, {{ drift.y }}</span>
      </template>
      <template v-else-if="unmeasured">{{ unmeasured.message }}</template>
    </p>
    <label class="check"
      ><input
        type="checkbox"
        :checked="step.repeat"
        @change="emit('change', { ...step, repeat: !step.repeat }, true)"
      />
      <span
        >Repeating texture<span class="small quiet">opposite edges still meet when it is laid side by side</span></span
      >
    </label>
    <v-btn v-if="step.repeat" size="small" title="Laid edge to edge, with the seam in the middle" @click="emit('laid')"
      >Look at it laid</v-btn
    >
  </div>
</template>

<style scoped>
.to-order {
  white-space: normal;
}
.drift {
  margin-top: -4px;
}
.drift .quiet {
  display: block;
}
.check {
  display: grid;
  grid-template-columns: 22px 1fr;
  cursor: pointer;
}
.check span span {
  display: block;
}
.check input {
  align-self: start;
  margin: 3px 0 0;
  accent-color: rgb(var(--v-theme-primary));
}
</style>
