<script setup lang="ts">
import { mdiCallSplit } from '@mdi/js'
import { ref } from 'vue'

import { useEnginesOf } from '../engines/useEngines'
import type { useTakes } from '../takes/useTakes'

const props = defineProps<{ takeId: string; tryEngines?: ReturnType<typeof useTakes>['tryEngines'] }>()
const engines = useEnginesOf('enlarge')
const open = ref(false)
const wanted = ref<string[]>([])

function make() {
  props.tryEngines?.mutate({
    id: props.takeId,
    engines: engines.value.map((one) => one.id).filter((id) => wanted.value.includes(id)),
  })
  open.value = false
}
</script>

<template>
  <v-menu v-model="open" :close-on-content-click="false">
    <template #activator="{ props: opener }">
      <v-btn
        v-bind="opener"
        size="small"
        :prepend-icon="mdiCallSplit"
        title="Make a take like this one for each of several engines"
        >Try engines</v-btn
      >
    </template>
    <v-card class="pa-4" width="340" aria-label="Try engines">
      <p class="small mb-2">A take like the one in the large view for each of these:</p>
      <label v-for="engine in engines" :key="engine.id" class="one">
        <input v-model="wanted" type="checkbox" :value="engine.id" />
        <span
          ><strong>{{ engine.name }}</strong> <span class="small quiet">{{ engine.purpose }}</span></span
        >
      </label>
      <div class="d-flex justify-end mt-3">
        <v-btn @click="open = false">Cancel</v-btn>
        <v-btn color="primary" variant="flat" :disabled="!wanted.length" @click="make">{{
          wanted.length > 1 ? `Make ${wanted.length} takes` : 'Make a take'
        }}</v-btn>
      </div>
    </v-card>
  </v-menu>
</template>

<style scoped>
.one {
  display: grid;
  grid-template-columns: 24px 1fr;
  padding: 3px 0;
  cursor: pointer;
}
.one input {
  margin-top: 3px;
  align-self: start;
  accent-color: rgb(var(--v-theme-primary));
}
.one span span {
  display: block;
}
</style>
