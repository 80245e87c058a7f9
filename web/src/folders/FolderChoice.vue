<script setup lang="ts">
import { mdiArrowUp, mdiFolderOutline } from '@mdi/js'
import { ref } from 'vue'

import { useFolder } from './useFolders'

const path = defineModel<string>({ required: true })
defineProps<{ label: string }>()
const open = ref(false)
const at = ref('')
const { data: folder, error } = useFolder(at, open)
const last = (text: string) => text.split('/').at(-1)

function browse() {
  at.value = path.value
  open.value = true
}
function choose() {
  path.value = at.value
  open.value = false
}
</script>

<template>
  <v-menu v-model="open" :close-on-content-click="false" location="bottom start">
    <template #activator="{ props: opener }">
      <v-text-field
        v-bind="opener"
        :model-value="path"
        :label="label"
        readonly
        :append-inner-icon="mdiFolderOutline"
        placeholder="choose a folder"
        persistent-placeholder
        @click="browse"
      />
    </template>
    <v-card class="pa-3 choice" :aria-label="label">
      <p class="small quiet path">{{ folder?.path || 'Folders this server may use' }}</p>
      <p v-if="error" class="small fault" role="alert">{{ error.message }}</p>
      <ul>
        <li v-if="folder?.parent != null">
          <button type="button" @click="at = folder.parent!"><v-icon :icon="mdiArrowUp" size="16" /> up</button>
        </li>
        <li v-for="one in folder?.folders" :key="one">
          <button type="button" @click="at = one">
            <v-icon :icon="mdiFolderOutline" size="16" /> {{ folder?.path ? last(one) : one }}
          </button>
        </li>
      </ul>
      <p v-if="folder?.path" class="small quiet">{{ folder.files }} files here</p>
      <v-btn color="primary" variant="flat" size="small" :disabled="!folder?.path" @click="choose"
        >Use this folder</v-btn
      >
    </v-card>
  </v-menu>
</template>

<style scoped>
.choice {
  display: flex;
  flex-direction: column;
  gap: 6px;
  width: 380px;
}
.path {
  overflow-wrap: anywhere;
}
ul {
  max-height: 220px;
  overflow-y: auto;
  padding: 0;
  list-style: none;
}
li button {
  width: 100%;
  padding: 4px 6px;
  text-align: left;
  border-radius: 3px;
  cursor: pointer;
}
li button:hover {
  background: rgba(var(--v-theme-on-surface), 0.08);
}
</style>
