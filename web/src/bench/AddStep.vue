<script setup lang="ts">
import { mdiPlus } from '@mdi/js'
import { computed } from 'vue'

import { kindsOfSteps, type StepKind } from '../steps/kinds'

/** A new step for the line. */
const props = defineProps<{ raw: boolean; has: (kind: StepKind) => boolean }>()
const emit = defineEmits<{ add: [kind: StepKind] }>()

/** A camera raw is developed once; other files are not. */
const kinds = computed(() => kindsOfSteps.filter((one) => one.belongs !== 'raw' || (props.raw && !props.has(one.kind))))
</script>

<template>
  <v-menu>
    <template #activator="{ props: opener }">
      <button v-bind="opener" class="add"><v-icon :icon="mdiPlus" size="16" /> <span>add a step</span></button>
    </template>
    <v-list density="compact">
      <v-list-item
        v-for="one in kinds"
        :key="one.kind"
        :title="one.title"
        :subtitle="one.purpose"
        @click="emit('add', one.kind)"
      />
    </v-list>
  </v-menu>
</template>

<style scoped>
.add {
  grid-column: 1 / -1;
  display: flex;
  align-items: center;
  gap: 12px;
  padding: 8px 12px;
  cursor: pointer;
  position: relative;
}
.add .v-icon {
  background: rgb(var(--v-theme-surface));
  margin-left: 0;
}
</style>
