<script setup lang="ts">
import { onErrorCaptured, ref } from 'vue'

/** What stands inside may fail without anything else of the page going with it; `tag` is what stands in its place then. */
const props = withDefaults(defineProps<{ what: string; tag?: string }>(), { tag: 'div' })
const failed = ref(false)
onErrorCaptured((error) => {
  // For whoever looks into the browser's log, or is sent it.
  console.error(`${props.what} could not be shown`, error)
  failed.value = true
  return false
})
</script>

<template>
  <component :is="tag" v-if="failed" class="guarded small" role="alert">
    {{ what }} could not be shown; everything else goes on.
    <button class="again" @click="failed = false">Try again</button>
  </component>
  <slot v-else />
</template>

<style scoped>
.guarded {
  padding: 8px;
  color: rgb(var(--v-theme-error));
}
.again {
  color: inherit;
  text-decoration: underline;
}
</style>
