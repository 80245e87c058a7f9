<script setup lang="ts">
import { mdiClose } from '@mdi/js'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'

import StrengthSlider from '../parts/StrengthSlider.vue'
import type { OneFace } from './faces'
import { stepQueries } from './queries'
import { useLenders } from './useLenders'

/** A sharp picture of the same person, which lends a face the detail that its own source does not have. */
const props = defineProps<{ face: OneFace; number: number; picture: { id: string } }>()
type Reference = NonNullable<OneFace['reference']>
const emit = defineEmits<{ change: [reference: Reference | null, now?: boolean] }>()

const usual = 70
const lenders = useLenders()
const from = ref('')
const choosing = ref(false)
/** The picture itself may hold a sharper one of the same person, but hardly ever does: it comes last. */
const pictures = computed(() =>
  [...(lenders.value ?? [])].sort((a, b) => Number(a.id === props.picture.id) - Number(b.id === props.picture.id)),
)
const { data: lending, isLoading } = useQuery(
  computed(() => ({
    ...stepQueries.lending(from.value),
    enabled: choosing.value && from.value !== '',
    refetchInterval: ({ state }: { state: { data?: { read: boolean } } }) =>
      state.data?.read === false ? 2000 : false,
  })),
)
const image = (square: string) => `data:image/jpeg;base64,${square}`

function choose(square: string) {
  const name = pictures.value.find(({ id }) => id === from.value)!.name
  emit('change', { square, name, strength: props.face.reference?.strength ?? usual }, true)
  choosing.value = false
}
function begin() {
  choosing.value = !choosing.value
  if (!from.value) from.value = pictures.value[0]?.id ?? ''
}
</script>

<template>
  <div class="reference" role="group" :aria-label="`Reference of face ${number}`">
    <div v-if="face.reference" class="chosen">
      <img :src="image(face.reference.square)" :alt="`The face in ${face.reference.name}`" />
      <span class="small name">from {{ face.reference.name }}</span>
      <v-btn
        :icon="mdiClose"
        size="x-small"
        aria-label="Lend no detail"
        title="Lend no detail"
        @click="emit('change', null, true)"
      />
    </div>
    <StrengthSlider
      v-if="face.reference"
      label="Detail lent"
      :value="face.reference.strength ?? usual"
      :usual="usual"
      hint="Only what this picture does not have, and only where both show the same"
      @change="(strength, now) => emit('change', { ...face.reference!, strength }, now)"
    />
    <v-btn
      size="small"
      :active="choosing"
      :aria-expanded="choosing"
      title="A sharp picture of the same person lends its detail"
      @click="begin"
      >{{ face.reference ? 'Another picture' : 'Detail from another picture' }}</v-btn
    >
    <div v-if="choosing" class="choice">
      <select v-model="from" class="small" aria-label="Picture that lends detail">
        <option v-for="one in pictures" :key="one.id" :value="one.id">
          {{ one.name }}{{ one.id === picture.id ? ' (this one)' : '' }}
        </option>
      </select>
      <p v-if="isLoading" class="small quiet" role="status">Looking for faces</p>
      <p v-else-if="lending && !lending.read" class="small quiet" role="status">
        That picture is being read; its faces follow.
      </p>
      <p v-else-if="lending && !lending.faces.length" class="small quiet" role="status">
        No face was found there. Bring a sharp picture of the person into the job.
      </p>
      <div v-else class="faces">
        <button
          v-for="(one, place) in lending?.faces ?? []"
          :key="place"
          :title="`${one.width} px wide`"
          :aria-label="`Take face ${place + 1} of that picture, ${one.width} px wide`"
          @click="choose(one.square)"
        >
          <img :src="image(one.square)" alt="" />
        </button>
      </div>
    </div>
  </div>
</template>

<style scoped>
.reference {
  display: grid;
  gap: 6px;
}
.reference > .v-btn {
  justify-self: start;
  min-width: 0;
  padding: 0 5px;
}
.chosen {
  display: flex;
  align-items: center;
  gap: 8px;
  width: 100%;
}
.chosen img {
  width: 48px;
  height: 48px;
  border-radius: 3px;
}
.name {
  flex: 1;
  min-width: 0;
  overflow-wrap: anywhere;
}
.choice {
  display: grid;
  gap: 6px;
  width: 100%;
}
.choice select {
  width: 100%;
  padding: 4px;
  color: inherit;
  background: rgb(var(--v-theme-surface-bright));
  border: 1px solid rgba(var(--v-theme-on-surface), 0.3);
  border-radius: 4px;
}
.faces {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}
.faces img {
  display: block;
  width: 56px;
  height: 56px;
  border-radius: 3px;
}
</style>
