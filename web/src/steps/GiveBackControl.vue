<script setup lang="ts">
import { computed } from 'vue'

import type { Schemas } from '../api/client'
import { useTakes } from '../takes/useTakes'
import { kindOf, type StepOf } from './kinds'

type GiveBack = StepOf<'give-back'>
type Given = NonNullable<GiveBack['steps']>[number]

const props = defineProps<{ step: GiveBack; take: Schemas['TakeOut']; picture: Schemas['PictureOut'] }>()
const emit = defineEmits<{ change: [step: GiveBack, now?: boolean] }>()
const { takes } = useTakes(() => props.picture.id)

const choices = computed(() => [
  { value: 'original', title: 'the original, plainly brought to size' },
  ...takes.value
    .filter((one) => one.id !== props.take.id && !one.outside)
    .map((one) => ({ value: one.name, title: `take ${one.name}, as it is now` })),
])
function choose(name: string) {
  const from = takes.value.find((one) => one.name === name)
  const steps = (from?.steps ?? []).filter((one): one is Given => kindOf(one.kind).belongs !== 'frame')
  emit('change', { ...props.step, of: name, steps: name === 'original' ? [] : steps }, true)
}
</script>

<template>
  <div class="settings">
    <v-select label="Give back" :model-value="step.of ?? 'original'" :items="choices" @update:model-value="choose" />
    <p class="small quiet">Paint where a step took too much: what stands there instead comes from here.</p>
  </div>
</template>
