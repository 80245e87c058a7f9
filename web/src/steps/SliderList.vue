<script setup lang="ts" generic="Settings extends object">
import StrengthSlider from '../parts/StrengthSlider.vue'
import { useMarks } from '../viewer/useMarks'

/** Sliders for several numbers of a step; what they clip is striped over the picture while they are dragged. */
export interface Slid {
  name: string
  title: string
  what: string
  unit?: string
  min?: number
  max?: number
  step?: number
  digits?: number
}
const props = defineProps<{ sliders: readonly Slid[]; settings: Settings; usual: Settings; marks?: boolean }>()
const emit = defineEmits<{ change: [changed: Partial<Settings>, now?: boolean] }>()
const { clipped } = useMarks()

const of = (settings: Settings, name: string) => (settings as Record<string, number>)[name]!
function set(name: string, value: number, now?: boolean) {
  if (props.marks) clipped.value = !now
  emit('change', { [name]: value } as Partial<Settings>, now)
}
</script>

<template>
  <StrengthSlider
    v-for="one in sliders"
    :key="one.name"
    :label="one.title"
    :value="of(settings, one.name)"
    :usual="of(usual, one.name)"
    :min="one.min ?? -100"
    :max="one.max ?? 100"
    :step="one.step ?? 1"
    :digits="one.digits ?? 0"
    :unit="one.unit ?? ''"
    :hint="one.what"
    @change="(value, now) => set(one.name, value, now)"
  />
</template>
