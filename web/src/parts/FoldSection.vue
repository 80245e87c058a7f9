<script lang="ts">
import { reactive } from 'vue'

/** Which sections are open, by name: as somebody left them, whatever was looked at between. */
const opened = reactive<Record<string, boolean>>({})
</script>

<script setup lang="ts">
import { mdiChevronDown, mdiChevronRight, mdiRestore } from '@mdi/js'
import { computed } from 'vue'

/** A part of a control that folds away; what was changed in it is marked and can be put back at once. */
const props = defineProps<{ name: string; title: string; changed?: boolean; begins?: boolean }>()
const emit = defineEmits<{ reset: [] }>()
const open = computed(() => opened[props.name] ?? props.begins ?? false)
</script>

<template>
  <section class="fold">
    <div class="head">
      <button type="button" class="title" :aria-expanded="open" @click="opened[name] = !open">
        <v-icon :icon="open ? mdiChevronDown : mdiChevronRight" size="18" />
        <span>{{ title }}</span>
        <span v-if="changed" class="dot" role="img" aria-label="changed" />
      </button>
      <v-btn
        v-if="changed"
        :icon="mdiRestore"
        size="x-small"
        :aria-label="`${title}: as it was`"
        title="Put all of it back"
        @click="emit('reset')"
      />
    </div>
    <div v-if="open" class="inner">
      <slot />
    </div>
  </section>
</template>

<style scoped>
.fold {
  border-top: 1px solid rgba(var(--v-theme-on-surface), 0.14);
  padding-top: 2px;
}
.fold:first-of-type {
  border-top: 0;
}
.head {
  display: flex;
  align-items: center;
  min-height: 28px;
}
.title {
  flex: 1;
  display: flex;
  align-items: center;
  gap: 4px;
  font-size: 13px;
  text-align: left;
  cursor: pointer;
}
.dot {
  width: 7px;
  height: 7px;
  margin-left: 4px;
  border-radius: 50%;
  background: rgb(var(--v-theme-primary));
}
.inner {
  display: flex;
  flex-direction: column;
  gap: 8px;
  padding: 4px 0 8px;
}
</style>
