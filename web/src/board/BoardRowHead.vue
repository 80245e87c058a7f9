<script setup lang="ts">
import { mdiCheckBold, mdiCheckCircle, mdiCheckCircleOutline, mdiCloseThick, mdiDotsVertical } from '@mdi/js'
import { ref } from 'vue'

import { kindOf } from '../steps/kinds'
import type { Take } from '../takes/useTakes'

const props = defineProps<{ take: Take; lead: boolean; alone: boolean }>()
const emit = defineEmits<{
  show: []
  choose: []
  alter: [told: { name?: string; note?: string; verdict?: Take['verdict'] }]
  duplicate: []
  shift: [by: 1 | -1]
  discard: []
  dropOn: [takeId: string]
}>()

const verdicts = [
  { value: 'good', icon: mdiCheckBold },
  { value: 'bad', icon: mdiCloseThick },
] as const

const name = ref<string | null>(null)
const over = ref(false)

function renamed() {
  const wish = name.value?.trim()
  name.value = null
  if (wish && wish !== props.take.name) emit('alter', { name: wish })
}
function summary(): string {
  if (props.take.outside) return 'made elsewhere'
  const steps = props.take.steps.filter((step) => step.on && step.kind !== 'frame')
  return (
    steps.map((step) => (step.kind === 'enlarge' ? step.engine : kindOf(step.kind).title)).join(' · ') || 'as it is'
  )
}
function drop(event: DragEvent) {
  over.value = false
  const dragged = event.dataTransfer?.getData('text/kite-take')
  if (dragged) emit('dropOn', dragged)
}
</script>

<template>
  <div
    class="row"
    :class="{ over, lead }"
    draggable="true"
    @dragstart="$event.dataTransfer?.setData('text/kite-take', take.id)"
    @dragover.prevent="over = true"
    @dragleave="over = false"
    @drop.prevent="drop"
  >
    <button
      class="chosen"
      :aria-pressed="take.chosen"
      :aria-label="`Choose take ${take.name}`"
      :title="take.chosen ? 'Chosen; click to choose none (C)' : 'Choose this take (C)'"
      @click="emit('choose')"
    >
      <v-icon :icon="take.chosen ? mdiCheckCircle : mdiCheckCircleOutline" size="16" />
    </button>
    <input
      v-if="name !== null"
      v-model="name"
      v-focus
      class="rename"
      aria-label="Name of the take"
      maxlength="60"
      @keydown.enter="renamed"
      @keydown.esc="name = null"
      @blur="renamed"
    />
    <button
      v-else
      class="name"
      :title="lead ? `${take.name} is in the large view` : `Show ${take.name} in the large view`"
      @click="emit('show')"
      @dblclick="name = take.name"
    >
      <strong>{{ take.name }}</strong>
      <span class="quiet small">{{ take.chosen ? 'chosen · ' : '' }}{{ summary() }}</span>
    </button>
    <v-menu>
      <template #activator="{ props: opener }">
        <button v-bind="opener" class="more" :aria-label="`More for take ${take.name}`">
          <v-icon :icon="mdiDotsVertical" size="18" />
        </button>
      </template>
      <v-list density="compact">
        <v-list-item title="Rename" @click="name = take.name" />
        <v-list-item v-if="!take.outside" title="Duplicate" @click="emit('duplicate')" />
        <v-list-item title="Move up" @click="emit('shift', -1)" />
        <v-list-item title="Move down" @click="emit('shift', 1)" />
        <v-list-item
          title="Discard"
          :disabled="alone"
          :subtitle="alone ? 'a picture keeps one take at least' : undefined"
          @click="emit('discard')"
        />
      </v-list>
    </v-menu>
    <div class="verdict">
      <button
        v-for="{ value, icon } in verdicts"
        :key="value"
        :aria-pressed="take.verdict === value"
        :aria-label="`Take ${take.name} is ${value}`"
        :title="`This take is ${value}`"
        @click="emit('alter', { verdict: take.verdict === value ? '' : value })"
      >
        <v-icon :icon="icon" size="15" />
      </button>
      <input
        :value="take.note"
        :aria-label="`Note on take ${take.name}`"
        placeholder="note"
        maxlength="2000"
        :title="take.note"
        @change="emit('alter', { note: ($event.target as HTMLInputElement).value })"
      />
    </div>
  </div>
</template>

<style scoped>
.row {
  display: grid;
  grid-template-columns: 22px minmax(0, 1fr) 22px;
  height: var(--cell-height);
  padding-top: 2px;
  align-items: start;
  align-content: space-between;
  border-left: 3px solid transparent;
}
.lead {
  border-left-color: rgb(var(--v-theme-primary));
}
.over {
  box-shadow: inset 0 2px 0 rgb(var(--v-theme-primary));
}
.name {
  display: flex;
  flex-direction: column;
  text-align: left;
  min-width: 0;
  cursor: pointer;
}
.name > * {
  overflow: hidden;
  text-overflow: ellipsis;
}
.chosen,
.more {
  height: 22px;
  cursor: pointer;
}
.name strong,
.name span {
  white-space: nowrap;
}
.verdict {
  grid-column: 1 / -1;
  display: flex;
  gap: 1px;
  padding: 0 4px 2px 2px;
}
.verdict button {
  width: 24px;
  height: 24px;
  border-radius: 4px;
  opacity: 0.6;
  cursor: pointer;
}
.verdict button[aria-pressed='true'] {
  background: rgba(var(--v-theme-on-surface), 0.22);
  opacity: 1;
}
.verdict input {
  flex: 1;
  min-width: 0;
  padding: 1px 6px;
  font-size: 13px;
  border: 1px solid rgba(var(--v-theme-on-surface), 0.2);
  border-radius: 4px;
}
.rename {
  min-width: 0;
  background: rgb(var(--v-theme-background));
}
</style>
