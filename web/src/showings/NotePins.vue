<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Schemas } from '../api/client'
import type { View } from '../viewer/content'
import { usePins } from '../viewer/usePins'
import type { ClientNote } from './queries'

/** Where the client left notes, over the large view; squares, so that nobody takes them for check spots. */
const props = defineProps<{ notes: ClientNote[]; takeId: string; reference: Schemas['SizeOut']; view: View }>()

const holder = ref<HTMLElement>()
const { at } = usePins(holder, props)
const pins = computed(() =>
  props.notes.flatMap((note, index) => {
    const place = note.places[props.takeId]
    if (!place || note.done) return []
    const where = at(place)
    return where ? [{ note, number: index + 1, ...where }] : []
  }),
)
</script>

<template>
  <div ref="holder" class="pins">
    <span
      v-for="pin in pins"
      :key="pin.note.id"
      class="pin"
      role="img"
      :style="{ left: `${pin.left}px`, top: `${pin.top}px` }"
      :aria-label="`Note ${pin.number} of ${pin.note.name}: ${pin.note.words}`"
      :title="`${pin.note.name}: ${pin.note.words}`"
      >{{ pin.number }}</span
    >
  </div>
</template>

<style scoped>
.pins {
  position: absolute;
  inset: 0;
  overflow: hidden;
  pointer-events: none;
}
.pin {
  position: absolute;
  min-width: 22px;
  height: 22px;
  margin: -11px;
  padding: 0 5px;
  font-size: 13px;
  font-weight: 600;
  line-height: 22px;
  text-align: center;
  color: #111;
  background: #fff;
  border-radius: 3px;
  box-shadow: 0 0 0 1.5px rgba(0, 0, 0, 0.65);
  pointer-events: auto;
}
</style>
