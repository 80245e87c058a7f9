<script setup lang="ts">
/** A small card that lies over the bench; where, says whoever shows it. */
defineProps<{
  /** What it is, for those who cannot see it as well. */
  title: string
  heading?: string
  state?: string
  /** The name of its button to close it, and the key that does so. */
  closes: string
  closeKey: string
}>()
defineEmits<{ close: [] }>()
</script>

<template>
  <section class="card" :aria-label="title">
    <header>
      <strong>{{ heading ?? title }}</strong> <span class="quiet small">{{ state }}</span>
      <button :aria-label="closes" :title="`Close (${closeKey})`" @click="$emit('close')">×</button>
    </header>
    <slot />
  </section>
</template>

<style scoped>
.card {
  position: absolute;
  padding: 8px 12px 10px;
  background: rgba(var(--v-theme-surface), 0.96);
  border: 1px solid rgba(var(--v-theme-on-surface), 0.18);
  border-radius: 4px;
}
header {
  display: flex;
  gap: 8px;
  padding-bottom: 4px;
}
header button {
  margin-left: auto;
  padding: 0 4px;
  cursor: pointer;
}
</style>
