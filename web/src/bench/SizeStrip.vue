<script setup lang="ts">
import { computed } from 'vue'

import type { Schemas } from '../api/client'
import { orderMet, turnedOrder } from '../jobs/order'
import eye from '../generated/print.json'
import { printPpi } from '../prints/ppi'
import { about, fileSize, length, megapixels, number, pixelSize } from '../parts/format'

const props = defineProps<{
  job?: Schemas['JobOut']
  picture: Schemas['PictureOut']
  take: Schemas['TakeOut']
}>()

const emit = defineEmits<{ print: []; fill: [] }>()

const plan = computed(() => props.take.plan)
const bits = computed(() =>
  props.picture.facts.bits === 8 ? '8 bit source, 16 bit out' : `${props.picture.facts.bits} bit`,
)
const order = computed(() => props.job?.order ?? null)
const target = computed(() => {
  const step = props.take.steps.find((one) => one.kind === 'enlarge' && one.on)
  return step?.kind === 'enlarge' ? step.target : undefined
})
const framedDiffers = computed(() => plan.value && pixelSize(plan.value.framed) !== pixelSize(plan.value.source))

const ppi = computed(() => printPpi(props.take, order.value))
const print = computed(() => {
  const size = plan.value?.size
  if (!size) return ''
  const inch = target.value?.by === 'print' ? target.value.unit === 'in' : order.value?.unit === 'in'
  const side = (pixels: number) => length((pixels / ppi.value) * (inch ? 1 : 2.54))
  return `${side(size.width)} × ${side(size.height)} ${inch ? 'in' : 'cm'} at ${number(ppi.value, 0)} ppi`
})
/** An eye resolves one minute of arc: from where two pixels can no longer be told apart. */
const distance = computed(() => `sharp from ${Math.round(eye.ppi_centimetres / ppi.value)} cm`)

const gets = computed(() => {
  if (!order.value || !plan.value) return null
  const met = orderMet(order.value, plan.value.size)
  const paper = turnedOrder(order.value, plan.value.size)
  const { unit, ppi: wanted } = order.value
  const print = `${length(paper.width)} × ${length(paper.height)} ${unit}`
  const given = `${Math.round(met.ppi)} of ${wanted} ppi`
  return {
    ...met,
    text: met.covers
      ? `ordered ${print} gets ${given}: ${met.word}`
      : `ordered ${print}: all of it is ${length(met.width)} × ${length(met.height)} ${unit} at ${given}, the rest stays white`,
    share: Math.min(1, met.ppi / (wanted ?? 300)),
  }
})
const bytes = computed(() => {
  const size = plan.value?.size
  return size ? fileSize(size.width * size.height * 6 * 0.75) : ''
})
</script>

<template>
  <div class="strip" aria-label="Size">
    <div class="way">
      <span class="node"
        ><b>{{ pixelSize(picture.facts) }}</b> px</span
      >
      <template v-if="plan">
        <template v-if="framedDiffers">
          <span class="edge">frame</span>
          <span class="node"
            ><b>{{ pixelSize(plan.framed) }}</b></span
          >
        </template>
        <span class="edge">×{{ number(plan.factor) }}</span>
        <span class="node result" data-testid="result-size"
          ><b>{{ pixelSize(plan.size) }}</b> px</span
        >
        <span class="quiet">{{ megapixels(plan.size.width, plan.size.height) }} · {{ bits }}</span>
      </template>
      <span v-else class="fault" role="alert">{{ take.problem }}</span>
    </div>
    <div v-if="plan" class="way small">
      <button class="print" title="Print planner (J)" @click="emit('print')">{{ print }}, {{ distance }}</button>
      <span v-if="gets" class="order" :class="gets.word.replaceAll(' ', '-')">
        <span class="gauge"><span :style="{ width: `${gets.share * 100}%` }" /></span>
        {{ gets.text }}
        <button
          v-if="!gets.covers"
          class="fill"
          title="Crop to the shape of the order; the crop can be moved on the frame step"
          @click="emit('fill')"
        >
          crop to fill
        </button>
      </span>
      <span class="quiet">{{ about(plan.seconds) }} · {{ bytes }} as TIFF</span>
    </div>
  </div>
</template>

<style scoped>
.strip {
  display: flex;
  flex-direction: column;
  gap: 1px;
  min-width: 0;
  white-space: nowrap;
}
.way {
  display: flex;
  align-items: center;
  flex-wrap: wrap;
  gap: 0 10px;
}
.small.way {
  gap: 0 18px;
}
.way > * {
  flex: none;
}
.print,
.fill {
  cursor: pointer;
  text-decoration: underline dotted rgba(var(--v-theme-on-surface), 0.5);
  text-underline-offset: 3px;
}
.edge {
  position: relative;
  padding: 0 6px 0 6px;
  font-size: 13px;
  color: rgb(var(--v-theme-primary));
}
.edge::before,
.edge::after {
  content: '';
  display: inline-block;
  width: 14px;
  height: 1px;
  margin: 0 5px;
  vertical-align: middle;
  background: rgb(var(--v-theme-primary));
}
.result b {
  font-size: 16px;
}
.fault {
  color: rgb(var(--v-theme-error));
  white-space: normal;
}
.order {
  display: flex;
  align-items: center;
  gap: 8px;
}
.gauge {
  width: 64px;
  height: 5px;
  background: rgba(var(--v-theme-on-surface), 0.22);
}
.gauge span {
  display: block;
  height: 100%;
  background: rgb(var(--v-theme-primary));
}
.short .gauge span,
.a-little-short .gauge span,
.another-shape .gauge span {
  background: rgb(var(--v-theme-warning));
}
</style>
