<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import type { Picture } from '../pictures/usePictures'
import StrengthSlider from '../parts/StrengthSlider.vue'
import { cardLine } from './cardText'
import { useCards } from './useCards'

const open = defineModel<boolean>({ required: true })
const props = defineProps<{ pictures: Picture[]; only?: string }>()
const emit = defineEmits<{ applied: [takeOf: Record<string, string>] }>()
const { cards, apply } = useCards()

const wanted = ref<string[]>([])
const chosen = ref<string | null>(null)
const strength = ref(100)
const card = computed(() => cards.value.find((one) => one.id === chosen.value))
watch(open, (now) => {
  if (!now) return
  wanted.value = props.only ? [props.only] : props.pictures.map((one) => one.id)
  strength.value = 100
})
watch([cards, open], () => (chosen.value = card.value?.id ?? cards.value[0]?.id ?? null), { immediate: true })

async function use() {
  if (!card.value) return
  const done = await apply.mutateAsync({ id: card.value.id, pictures: wanted.value, strength: strength.value })
  open.value = false
  emit('applied', Object.fromEntries(done.map((one) => [one.picture_id, one.take_id])))
}
</script>

<template>
  <v-dialog v-model="open" max-width="600" aria-label="Use a card">
    <v-card class="pa-5">
      <h2 class="mb-2">Use a card</h2>
      <p v-if="!cards.length" class="quiet">
        There are no cards yet. Open a picture on the bench, set its steps, and save them as a card there; or bring a
        card's file on the
        <RouterLink :to="{ name: 'cards' }">cards page</RouterLink>.
      </p>
      <form v-else class="d-flex flex-column ga-3" @submit.prevent="use">
        <v-select v-model="chosen" label="Card" :items="cards.map((one) => ({ value: one.id, title: one.name }))" />
        <p v-if="card" class="small quiet">{{ card.note }}{{ card.note ? ' · ' : '' }}{{ cardLine(card) }}</p>
        <StrengthSlider
          label="Strength"
          :value="strength"
          unit="%"
          hint="How much of its restoring steps; size and engine stay"
          @change="strength = $event"
        />
        <fieldset>
          <legend class="small">A new take on each of these; the takes they have stay as they are</legend>
          <label v-for="picture in pictures" :key="picture.id" class="one">
            <input v-model="wanted" type="checkbox" :value="picture.id" />
            <img :src="`/api/pictures/${picture.id}/preview`" alt="" />
            <span>{{ picture.name }}</span>
          </label>
        </fieldset>
        <div class="d-flex justify-end ga-2">
          <v-btn @click="open = false">Cancel</v-btn>
          <v-btn
            type="submit"
            color="primary"
            variant="flat"
            :disabled="!wanted.length || !card"
            :loading="apply.isPending.value"
          >
            {{ wanted.length > 1 ? `Make ${wanted.length} takes` : 'Make a take' }}
          </v-btn>
        </div>
      </form>
      <div v-if="!cards.length" class="d-flex justify-end"><v-btn @click="open = false">Close</v-btn></div>
    </v-card>
  </v-dialog>
</template>

<style scoped>
fieldset {
  max-height: 240px;
  overflow-y: auto;
  border: 1px solid rgba(var(--v-theme-on-surface), 0.2);
  border-radius: 4px;
  padding: 4px 10px;
}
.one {
  display: flex;
  align-items: center;
  gap: 10px;
  padding: 3px 0;
  cursor: pointer;
}
.one input {
  accent-color: rgb(var(--v-theme-primary));
}
.one img {
  width: 44px;
  height: 32px;
  object-fit: contain;
}
</style>
