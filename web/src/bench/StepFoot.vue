<script setup lang="ts">
import { mdiArrowDown, mdiArrowUp, mdiClose } from '@mdi/js'

/** What can be done with a step as a whole, whatever it is. */
defineProps<{ first: boolean; last: boolean }>()
const emit = defineEmits<{ earlier: []; later: []; remove: [] }>()
</script>

<template>
  <div class="foot">
    <v-btn
      :icon="mdiArrowUp"
      size="x-small"
      :disabled="first"
      aria-label="Earlier"
      title="Earlier (Alt ↑)"
      @click="emit('earlier')"
    />
    <v-btn
      :icon="mdiArrowDown"
      size="x-small"
      :disabled="last"
      aria-label="Later"
      title="Later (Alt ↓)"
      @click="emit('later')"
    />
    <v-spacer />
    <v-btn size="small" :prepend-icon="mdiClose" @click="emit('remove')">Remove</v-btn>
  </div>
</template>

<style scoped>
.foot {
  display: flex;
  margin-top: 10px;
}
</style>
