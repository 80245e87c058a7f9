<script setup lang="ts">
import { computed } from 'vue'

import { keyGroups, type Key } from './useKeys'

const open = defineModel<boolean>({ required: true })
const props = withDefaults(defineProps<{ keys: Key[]; title?: string }>(), { title: 'Keys on the bench' })
/** Keys that belong together stand in one line. */
const lines = computed(() =>
  props.keys.filter((key, index) => props.keys.findIndex((one) => one.shown === key.shown) === index),
)
const groups = computed(() =>
  keyGroups
    .map((name) => ({ name, lines: lines.value.filter((key) => key.group === name) }))
    .filter((group) => group.lines.length),
)
</script>

<template>
  <v-dialog v-model="open" max-width="960" aria-label="Keys">
    <v-card class="pa-5">
      <h2 class="mb-3">{{ title }}</h2>
      <div class="sheet">
        <section v-for="group in groups" :key="group.name">
          <h3 class="small quiet">{{ group.name }}</h3>
          <dl>
            <div v-for="key in group.lines" :key="key.key">
              <dt>
                <kbd>{{ key.shown }}</kbd>
              </dt>
              <dd>{{ key.does }}</dd>
            </div>
          </dl>
        </section>
      </div>
      <div class="d-flex justify-end"><v-btn @click="open = false">Close</v-btn></div>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.sheet {
  columns: 3;
  column-gap: 28px;
}
.sheet dl > div {
  display: grid;
  grid-template-columns: 96px 1fr;
  padding: 2px 0;
  break-inside: avoid;
}
dl,
dd {
  margin: 0;
}
section {
  margin-bottom: 10px;
}
h3 {
  break-after: avoid;
}
</style>
