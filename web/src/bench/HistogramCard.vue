<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'

import { number } from '../parts/format'
import BenchCard from '../parts/BenchCard.vue'
import { benchQueries } from './queries'

const props = defineProps<{ takeId: string; chain: string }>()
defineEmits<{ close: [] }>()

const { data, isFetching, error } = useQuery(computed(() => benchQueries.histogram(props.takeId, props.chain)))

const width = 256
const height = 88
const colours = computed(() => (data.value?.counts.length === 1 ? ['#d8d8d8'] : ['#ff6b5e', '#6fd36f', '#6ea8ff']))
const names = computed(() => (data.value?.counts.length === 1 ? ['grey'] : ['red', 'green', 'blue']))
/** The ends would dwarf the rest: the height is that of the fullest tone between them. */
const most = computed(() => Math.max(1, ...(data.value?.counts ?? []).flatMap((counts) => counts.slice(2, -2))))
const paths = computed(() =>
  (data.value?.counts ?? []).map((counts) => {
    const points = counts.map(
      (count, tone) => `${tone},${(height - Math.min(1, count / most.value) * height).toFixed(1)}`,
    )
    return `M0,${height} L${points.join(' L')} L${width},${height} Z`
  }),
)
const share = (value: number) => (value === 0 ? '0' : value < 0.0001 ? '< 0.01 %' : `${number(value * 100, 2)} %`)
</script>

<template>
  <BenchCard
    class="card small"
    title="Histogram"
    :state="isFetching ? 'computing' : ''"
    closes="Close the histogram"
    close-key="H"
    @close="$emit('close')"
  >
    <p v-if="error">{{ error.message }}</p>
    <template v-else-if="data">
      <svg
        :viewBox="`0 0 ${width} ${height}`"
        :width="width"
        :height="height"
        role="img"
        aria-label="Tones from dark to light, per channel"
      >
        <path
          v-for="(path, index) in paths"
          :key="index"
          :d="path"
          :fill="colours[index]"
          fill-opacity="0.34"
          :stroke="colours[index]"
          stroke-width="1"
        />
      </svg>
      <table>
        <thead>
          <tr>
            <th class="quiet">clipped</th>
            <th v-for="name in names" :key="name">{{ name }}</th>
          </tr>
        </thead>
        <tbody>
          <tr>
            <th>dark</th>
            <td v-for="(value, index) in data.shadows" :key="index">{{ share(value) }}</td>
          </tr>
          <tr>
            <th>light</th>
            <td v-for="(value, index) in data.highlights" :key="index">{{ share(value) }}</td>
          </tr>
        </tbody>
      </table>
    </template>
  </BenchCard>
</template>

<style scoped>
.card {
  left: 10px;
  bottom: 40px;
}
svg {
  display: block;
  background: #1a1a1a;
}
table {
  width: 100%;
  border-collapse: collapse;
}
th {
  font-weight: 400;
  text-align: left;
}
td,
thead th:not(:first-child) {
  text-align: right;
}
</style>
