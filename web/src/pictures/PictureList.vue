<script setup lang="ts">
import { mdiCardsOutline, mdiClose, mdiContentPaste, mdiEyeOutline, mdiMagnify, mdiPackageDown } from '@mdi/js'
import { computed, ref } from 'vue'

import type { Delivery } from '../deliveries/queries'
import { readingLine } from '../readings/readingText'
import { useCopiedSteps } from '../takes/useCopiedSteps'
import { listed, namesakes, orders, progressOf, type Order } from './pictureList'
import GuardedPart from '../parts/GuardedPart.vue'
import PictureRow from './PictureRow.vue'
import type { Picture } from './queries'

const props = defineProps<{
  pictures: Picture[]
  deliveries: Delivery[]
  /** What clients said of them, by their ids. */
  said: Map<string, string>
}>()
const emit = defineEmits<{
  remove: [pictures: Picture[]]
  deliver: [pictures: Picture[]]
  card: [pictures: Picture[]]
  show: [pictures: Picture[]]
}>()
const { copied, paste } = useCopiedSteps()

const search = ref('')
const order = ref<Order>('added')
const chosen = ref<string[]>([])

const progress = computed(() => new Map(props.pictures.map((one) => [one.id, progressOf(one, props.deliveries)])))
const names = computed(() => namesakes(props.pictures))
const shown = computed(() =>
  listed(
    props.pictures,
    search.value,
    order.value,
    (one) => (one.reading ? readingLine(one.reading, one.facts) : ''),
    (one) => progress.value.get(one.id)!,
  ),
)
const done = computed(() => [...progress.value.values()].filter(({ made }) => made).length)
/** What is acted on: those chosen that are still there, whether the search shows them or not. */
const wanted = computed(() => props.pictures.filter((one) => chosen.value.includes(one.id)))
const all = computed({
  get: () => shown.value.length > 0 && shown.value.every((one) => chosen.value.includes(one.id)),
  set: (on) => (chosen.value = on ? shown.value.map((one) => one.id) : []),
})
/** With Shift, all from the one chosen last to this one. */
let last = -1
function choose(index: number, event: MouseEvent) {
  const on = (event.target as HTMLInputElement).checked
  const [from, to] = event.shiftKey && last >= 0 ? [Math.min(last, index), Math.max(last, index)] : [index, index]
  const ids = shown.value.slice(from, to + 1).map((one) => one.id)
  chosen.value = on ? [...new Set([...chosen.value, ...ids])] : chosen.value.filter((one) => !ids.includes(one))
  last = index
}
</script>

<template>
  <section aria-label="The job's pictures">
    <div class="bar">
      <label v-if="pictures.length > 1" class="all small"
        ><input v-model="all" type="checkbox" :indeterminate.prop="wanted.length > 0 && !all" />
        {{ wanted.length ? `${wanted.length} chosen` : 'all' }}</label
      >
      <template v-if="wanted.length">
        <v-btn size="small" variant="outlined" :prepend-icon="mdiPackageDown" @click="emit('deliver', wanted)"
          >Deliver</v-btn
        >
        <v-btn size="small" variant="outlined" :prepend-icon="mdiCardsOutline" @click="emit('card', wanted)"
          >Use a card</v-btn
        >
        <v-btn size="small" variant="outlined" :prepend-icon="mdiEyeOutline" @click="emit('show', wanted)"
          >Show to client</v-btn
        >
        <v-btn
          v-if="copied"
          size="small"
          variant="outlined"
          :prepend-icon="mdiContentPaste"
          :title="`The steps of ${copied.name}, as a new take of each`"
          :loading="paste.isPending.value"
          @click="paste.mutate(wanted.map((one) => one.id))"
          >Paste steps</v-btn
        >
        <v-btn size="small" variant="outlined" :prepend-icon="mdiClose" @click="emit('remove', wanted)"
          >Take out of the job</v-btn
        >
      </template>
      <span v-else class="small quiet" role="status">{{ done }} of {{ pictures.length }} pictures delivered</span>
      <v-spacer />
      <template v-if="pictures.length > 1">
        <v-text-field
          v-model="search"
          class="search"
          label="Search"
          placeholder="name, noisy, blurred …"
          clearable
          :prepend-inner-icon="mdiMagnify"
        />
        <v-select v-model="order" class="order" label="Order" :items="orders" />
      </template>
    </div>
    <p v-if="!shown.length" class="quiet none">No picture of this job has “{{ search }}” in its name or its reading.</p>
    <ul v-else class="pictures" aria-label="Pictures">
      <GuardedPart v-for="(picture, index) in shown" :key="picture.id" tag="li" :what="picture.name">
        <PictureRow
          :picture="picture"
          :apart="names.get(picture.id) ?? ''"
          :said="said.get(picture.id) ?? ''"
          :progress="progress.get(picture.id)!"
          @remove="emit('remove', [picture])"
        >
          <input
            v-if="pictures.length > 1"
            type="checkbox"
            class="check"
            :checked="chosen.includes(picture.id)"
            :aria-label="`Choose ${picture.name}`"
            @click="choose(index, $event)"
          />
        </PictureRow>
      </GuardedPart>
    </ul>
  </section>
</template>

<style scoped>
.bar {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px 12px;
  min-height: 48px;
  margin-bottom: 8px;
}
.all {
  display: flex;
  align-items: center;
  gap: 8px;
  padding-left: 10px;
  white-space: nowrap;
  cursor: pointer;
}
.all input,
.check {
  width: 16px;
  height: 16px;
  accent-color: rgb(var(--v-theme-primary));
  cursor: pointer;
}
.search {
  flex: 0 1 240px;
}
.order {
  flex: 0 1 210px;
}
.none {
  padding: 24px 10px;
}
.pictures {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(100%, 640px), 1fr));
  gap: 10px;
  padding: 0;
  list-style: none;
}
</style>
