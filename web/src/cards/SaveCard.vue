<script setup lang="ts">
import { ref, watch } from 'vue'

import type { Take } from '../takes/useTakes'
import { useCards } from './useCards'

const open = defineModel<boolean>({ required: true })
const props = defineProps<{ take: Take }>()
const { save } = useCards()
const name = ref('')
const note = ref('')
watch(open, (now) => {
  if (now) [name.value, note.value] = [props.take.name.length > 1 ? props.take.name : '', '']
})

async function keep() {
  if (!name.value.trim()) return
  await save.mutateAsync({ take_id: props.take.id, name: name.value.trim(), note: note.value })
  open.value = false
}
</script>

<template>
  <v-dialog v-model="open" max-width="440" aria-label="Save a card">
    <v-card class="pa-5">
      <form class="d-flex flex-column ga-3" @submit.prevent="keep">
        <h2>Save the steps of take {{ take.name }} as a card</h2>
        <p class="small quiet">
          To be used on other pictures. The frame stays with this picture; a repair takes each file's own quality.
        </p>
        <v-text-field v-model="name" autofocus label="Name of the card" maxlength="60" />
        <v-text-field v-model="note" label="Note" placeholder="what it is good for" maxlength="2000" />
        <div class="d-flex justify-end ga-2">
          <v-btn @click="open = false">Cancel</v-btn>
          <v-btn type="submit" color="primary" variant="flat" :disabled="!name.trim()" :loading="save.isPending.value"
            >Save</v-btn
          >
        </div>
      </form>
    </v-card>
  </v-dialog>
</template>
