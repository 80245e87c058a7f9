<script setup lang="ts">
import { mdiBrush, mdiEye, mdiInvertColors, mdiUndoVariant } from '@mdi/js'
import { computed } from 'vue'

import ChoiceRow from '../parts/ChoiceRow.vue'
import StrengthSlider from '../parts/StrengthSlider.vue'
import { useBrush, type Mask } from './useBrush'

const props = defineProps<{ mask: Mask | null; index: number; what: string }>()
const emit = defineEmits<{ change: [mask: Mask | null] }>()
const { brush, painting, overlay } = useBrush()

const active = computed(() => painting.value === props.index)
const strokes = computed(() => props.mask?.strokes ?? [])
const ways: { value: 'add' | 'erase'; title: string; what: string }[] = [
  { value: 'add', title: 'Paint', what: 'Add to the mask' },
  { value: 'erase', title: 'Take away', what: 'Take away from the mask (Shift while painting)' },
]

function begin() {
  if (!props.mask) emit('change', { strokes: [], inverted: false })
  painting.value = props.index
}
function everywhere() {
  painting.value = null
  emit('change', null)
}
</script>

<template>
  <section class="mask" aria-label="Mask">
    <div v-if="!mask" class="line">
      <span class="quiet small">{{ what === 'give back' ? 'gives back nowhere yet' : 'works everywhere' }}</span>
      <v-btn size="small" :prepend-icon="mdiBrush" title="Paint where the step works (Q)" @click="begin">Paint</v-btn>
    </div>
    <template v-else>
      <div class="line">
        <v-btn
          size="small"
          :prepend-icon="mdiBrush"
          :active="active"
          :color="active ? 'primary' : undefined"
          title="Paint in the picture (Q)"
          @click="painting = active ? null : index"
        >
          {{ active ? 'Painting' : 'Paint' }}
        </v-btn>
        <v-spacer />
        <v-btn
          :icon="mdiEye"
          size="x-small"
          :active="overlay"
          aria-label="Show the mask"
          title="Show the mask while painting"
          @click="overlay = !overlay"
        />
        <v-btn
          :icon="mdiInvertColors"
          size="x-small"
          :active="mask.inverted"
          aria-label="Invert the mask"
          title="Invert: work everywhere but there"
          @click="emit('change', { ...mask, inverted: !mask.inverted })"
        />
        <v-btn
          :icon="mdiUndoVariant"
          size="x-small"
          aria-label="Take the last stroke back"
          title="Take the last stroke back"
          :disabled="!strokes.length"
          @click="emit('change', { ...mask, strokes: strokes.slice(0, -1) })"
        />
      </div>
      <p v-if="!strokes.length && !mask.inverted" class="small quiet">
        Nothing is painted yet, so the step works nowhere.
      </p>
      <template v-if="active">
        <ChoiceRow
          label="Brush"
          :choices="ways"
          :chosen="brush.erase ? 'erase' : 'add'"
          @choose="brush.erase = $event === 'erase'"
        />
        <StrengthSlider
          label="Size"
          unit="px"
          :value="brush.size"
          :min="2"
          :max="400"
          hint="In pixels of the source ( , and ; )"
          @change="brush.size = $event"
        />
        <StrengthSlider
          label="Softness"
          :value="brush.softness"
          hint="How far it fades towards its rim"
          @change="brush.softness = $event"
        />
        <StrengthSlider label="Strength" :value="brush.strength" :min="1" @change="brush.strength = $event" />
        <label class="small edges"><input v-model="brush.edges" type="checkbox" /> stay within edges</label>
      </template>
      <button class="small quiet clear" @click="everywhere">
        {{ what === 'give back' ? 'paint nothing' : 'work everywhere again' }}
      </button>
    </template>
  </section>
</template>

<style scoped>
.mask {
  margin-top: 10px;
  padding-top: 8px;
  border-top: 1px solid rgba(var(--v-theme-on-surface), 0.14);
  display: grid;
  gap: 6px;
}
.line {
  display: flex;
  align-items: center;
  gap: 4px;
  justify-content: space-between;
}
.edges {
  display: flex;
  align-items: center;
  gap: 8px;
  cursor: pointer;
}
.edges input {
  accent-color: rgb(var(--v-theme-primary));
}
.clear {
  justify-self: start;
  text-decoration: underline;
  cursor: pointer;
}
</style>
