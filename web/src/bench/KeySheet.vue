<script setup lang="ts">
import { computed } from 'vue'

import type { Key } from './useKeys'

const open = defineModel<boolean>({ required: true })
const props = defineProps<{ keys: Key[] }>()
/** Keys that belong together stand in one line. */
const lines = computed(() => props.keys.filter((key, index) => props.keys.findIndex((one) => one.shown === key.shown) === index))
</script>

<template>
  <v-dialog v-model="open" max-width="960">
    <v-card class="pa-5" aria-label="Keys">
      <h2 class="mb-3">Keys on the bench</h2>
      <dl class="sheet">
        <div v-for="key in lines" :key="key.key">
          <dt><kbd>{{ key.shown }}</kbd></dt>
          <dd>{{ key.does }}</dd>
        </div>
      </dl>
      <div class="d-flex justify-end"><v-btn @click="open = false">Close</v-btn></div>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.sheet {
  columns: 3;
  column-gap: 28px;
}
.sheet div {
  display: grid;
  grid-template-columns: 96px 1fr;
  padding: 3px 0;
  break-inside: avoid;
}
dd {
  margin: 0;
}
</style>
