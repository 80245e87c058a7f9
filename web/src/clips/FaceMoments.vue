<script setup lang="ts">
import { computed } from 'vue'

import type { Schemas } from '../api/client'
import { momentText } from './marks'

/** The moments of a clip in which its faces look well, best first; while they are looked for, how far that is. */
const props = defineProps<{
  faces?: Schemas['MomentsOut']
  index: number
  code: (frame: number) => string
}>()
defineEmits<{ go: [frame: number]; pull: [frame: number] }>()

const found = computed(() => props.faces?.moments)
const best = computed(() =>
  (found.value?.best ?? []).map((frame) => found.value!.moments.find((moment) => moment.frame === frame)!),
)
</script>

<template>
  <h3>Faces</h3>
  <p v-if="faces?.state === 'failed'" class="small" role="alert">{{ faces.message }}</p>
  <p v-else-if="!found" class="small quiet" role="status">
    looking at eyes, {{ Math.round(100 * (faces?.progress ?? 0)) }} %
  </p>
  <p v-else-if="!found.moments.length" class="small quiet">No faces in it.</p>
  <ul v-else aria-label="Faces">
    <li v-for="moment in best" :key="moment.frame">
      <button :aria-pressed="moment.frame === index" @click="$emit('go', moment.frame)">
        {{ code(moment.frame) }} <span class="quiet small">{{ momentText(moment) }}</span>
      </button>
      <v-btn size="x-small" :title="`Pull frame ${moment.frame + 1}`" @click="$emit('pull', moment.frame)">Pull</v-btn>
    </li>
    <li v-if="!best.length" class="quiet small">No moment stands out.</li>
  </ul>
</template>

<style scoped>
h3 {
  margin-top: 8px;
  font-size: 14px;
}
ul {
  list-style: none;
  padding: 0;
}
li {
  display: flex;
  justify-content: space-between;
  align-items: center;
  padding: 2px 0;
}
button {
  text-align: left;
  cursor: pointer;
}
</style>
