<script setup lang="ts">
import { mdiClose } from '@mdi/js'
import { ref } from 'vue'

import { useNotice } from '../parts/useNotice'
import { formatText, type OutputSpec } from './useDeliveries'
import { useOutputs, type SavedOutput } from './useOutputs'

const also = defineModel<string[]>({ required: true })
const props = defineProps<{ spec: OutputSpec }>()
defineEmits<{ use: [spec: OutputSpec] }>()
const { outputs, save, remove } = useOutputs()
const notice = useNotice()
const name = ref('')

function keep() {
  // A name that was typed twice replaces what had it; what was there can be had back.
  const before = outputs.value?.find((one) => one.name === name.value.trim())
  save.mutate(
    { name: name.value, spec: { ...props.spec, ppi: null } },
    {
      onSuccess: (kept) => {
        name.value = ''
        if (before) notice.say(`“${kept.name}” was replaced.`, { label: 'Undo', run: () => save.mutate(before) })
      },
      onError: notice.fault,
    },
  )
}
function forget(output: SavedOutput) {
  also.value = also.value.filter((id) => id !== output.id)
  remove.mutate(output.id, {
    onSuccess: () => notice.say(`“${output.name}” was removed.`, { label: 'Undo', run: () => save.mutate(output) }),
    onError: notice.fault,
  })
}
const told = ({ spec }: SavedOutput) => `${formatText(spec)}${spec.longest_side ? ` · ${spec.longest_side} px` : ''}`
</script>

<template>
  <aside aria-label="Saved outputs">
    <h3>Saved outputs</h3>
    <p v-if="!outputs?.length" class="quiet small">
      Save the settings on the right under a name, such as “web”. What is ticked here is made as well: several sizes in
      one go.
    </p>
    <ul v-else>
      <li v-for="one in outputs" :key="one.id">
        <input
          v-model="also"
          type="checkbox"
          :value="one.id"
          :aria-label="`Make ${one.name} as well`"
          title="Make this one as well"
        />
        <button type="button" class="use" title="Fill in these settings" @click="$emit('use', one.spec)">
          <span>{{ one.name }}</span>
          <span class="quiet small">{{ told(one) }}</span>
        </button>
        <v-btn :icon="mdiClose" size="x-small" :aria-label="`Remove ${one.name}`" title="Remove" @click="forget(one)" />
      </li>
    </ul>
    <form class="save" @submit.prevent.stop="keep">
      <v-text-field v-model="name" label="Save these as" maxlength="60" />
      <v-btn type="submit" variant="outlined" size="small" :disabled="!name.trim()" :loading="save.isPending.value"
        >Save</v-btn
      >
    </form>
  </aside>
</template>

<style scoped>
aside {
  display: flex;
  flex-direction: column;
  gap: 10px;
  padding: 20px;
  border-right: 1px solid rgba(var(--v-theme-on-surface), 0.14);
  overflow-y: auto;
}
h3 {
  font-size: 14px;
}
ul {
  list-style: none;
  padding: 0;
}
li {
  display: flex;
  align-items: center;
  gap: 6px;
}
li input {
  accent-color: rgb(var(--v-theme-primary));
}
.use {
  flex: 1;
  display: flex;
  flex-direction: column;
  padding: 4px 6px;
  text-align: left;
  border-radius: 3px;
  cursor: pointer;
  overflow-wrap: anywhere;
}
.use:hover {
  background: rgba(var(--v-theme-on-surface), 0.08);
}
.save {
  display: flex;
  align-items: center;
  gap: 6px;
  margin-top: auto;
  padding-top: 10px;
}
</style>
