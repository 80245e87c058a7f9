<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, onScopeDispose, ref, watch } from 'vue'

import { picture } from '../api/client'
import BenchCard from '../parts/BenchCard.vue'
import ChoiceRow from '../parts/ChoiceRow.vue'
import type { Plan, Take } from '../takes/queries'
import { cutAddress } from '../board/cell'
import { cornerCuts } from './laid'

/** The result laid edge to edge: small and several times, or its seams pixel for pixel, where four of them meet. */
const props = defineProps<{ take: Take; plan: Plan }>()
defineEmits<{ close: [] }>()

const box = { width: 600, height: 420 }
const times = ref<1 | 2 | 3 | 4 | 5>(2)
const middle = ref(true)
const choices = [
  { value: 1 as const, title: 'Seam, 100 %' },
  ...([2, 3, 4, 5] as const).map((value) => ({ value, title: `${value} ×` })),
]

const { data: blob, error } = useQuery(
  computed(() => ({
    queryKey: ['laid', props.take.id, props.plan.chain],
    queryFn: ({ signal }: { signal: AbortSignal }) =>
      picture(`/api/takes/${props.take.id}/live`, { steps: props.take.steps, side: 600, stripes: false }, signal),
    staleTime: Infinity,
  })),
)
const source = ref('')
watch(
  blob,
  (now) => {
    URL.revokeObjectURL(source.value)
    source.value = now ? URL.createObjectURL(now) : ''
  },
  { immediate: true },
)
onScopeDispose(() => URL.revokeObjectURL(source.value))

/** One copy, as large as so many of them fit in across. */
const copy = computed(() => {
  const width = box.width / times.value
  return { width, height: (width * props.plan.size.height) / props.plan.size.width }
})
const laid = computed(() => {
  const { width, height } = copy.value
  const at = middle.value ? `${width / 2}px ${height / 2}px` : '0 0'
  return { backgroundImage: `url(${source.value})`, backgroundSize: `${width}px ${height}px`, backgroundPosition: at }
})
const corners = computed(() => {
  const density = window.devicePixelRatio || 1
  return cornerCuts(props.plan.size, (box.width * density) / 2, (box.height * density) / 2).map((cut) => ({
    address: cutAddress(props.take.id, props.plan.chain, { ...cut, magnified: 1 / density }),
    style: { width: `${cut.width / density}px`, height: `${cut.height / density}px` },
  }))
})
</script>

<template>
  <BenchCard
    class="card small"
    title="Laid edge to edge"
    :state="error ? '' : times > 1 && !source ? 'computing' : ''"
    closes="Close what is laid"
    close-key="×"
    @close="$emit('close')"
  >
    <div class="tools">
      <ChoiceRow label="How often" :choices="choices" :chosen="times" @choose="times = $event" />
      <label v-if="times > 1"><input v-model="middle" type="checkbox" /> seam in the middle</label>
    </div>
    <p v-if="error">{{ error.message }}</p>
    <div v-else-if="times > 1" class="laid" role="img" :aria-label="`${times} by ${times}`" :style="laid" />
    <div v-else class="laid corners" role="img" aria-label="Where four of them meet">
      <img
        v-for="corner in corners"
        :key="corner.address"
        :src="corner.address"
        :style="corner.style"
        alt=""
        draggable="false"
      />
    </div>
  </BenchCard>
</template>

<style scoped>
.card {
  top: 10px;
  right: 10px;
  z-index: 2;
}
.tools {
  display: flex;
  align-items: center;
  gap: 14px;
  padding-bottom: 8px;
}
.tools > :first-child {
  width: 340px;
}
.tools input {
  accent-color: rgb(var(--v-theme-primary));
}
.tools label {
  display: flex;
  gap: 6px;
  align-items: center;
  cursor: pointer;
}
.laid {
  width: 600px;
  height: 420px;
  overflow: hidden;
  background-repeat: repeat;
}
.corners {
  display: grid;
  grid-template-columns: auto auto;
  align-content: center;
  justify-content: center;
}
.corners img {
  display: block;
}
</style>
