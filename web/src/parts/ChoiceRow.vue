<script setup lang="ts" generic="Value extends string | number">
/** A few settings of which one holds, side by side. */
defineProps<{
  label: string
  choices: { value: Value; title: string; what?: string }[]
  chosen: Value | null
}>()
defineEmits<{ choose: [value: Value] }>()
</script>

<template>
  <div class="choices" role="group" :aria-label="label">
    <button
      v-for="one in choices"
      :key="one.value"
      type="button"
      :aria-pressed="chosen === one.value"
      :title="one.what"
      @click="$emit('choose', one.value)"
    >
      {{ one.title }}
    </button>
  </div>
</template>

<style scoped>
.choices {
  display: flex;
  border: 1px solid rgba(var(--v-theme-on-surface), 0.3);
  border-radius: 4px;
  overflow: hidden;
}
button {
  flex: 1 1 auto;
  padding: 4px 2px;
  font-size: 13px;
  text-align: center;
  cursor: pointer;
}
button + button {
  border-left: 1px solid rgba(var(--v-theme-on-surface), 0.3);
}
button[aria-pressed='true'] {
  background: rgb(var(--v-theme-primary));
  color: rgb(var(--v-theme-on-primary));
  font-weight: 600;
}
</style>
