<script setup lang="ts">
import { computed } from 'vue'

import type { Schemas } from '../api/client'
import type { StepOf } from './kinds'
import { useOtherTakes } from './useOtherTakes'

type GiveBack = StepOf<'give-back'>
type Given = NonNullable<GiveBack['steps']>[number]

const props = defineProps<{ step: GiveBack; take: Schemas['TakeOut']; picture: Schemas['PictureOut'] }>()
const emit = defineEmits<{ change: [step: GiveBack, now?: boolean] }>()
const { others, stepsOf } = useOtherTakes(
  () => props.picture.id,
  () => props.take.id,
)

const choices = computed(() => [{ value: 'original', title: 'the original, plainly brought to size' }, ...others.value])
const choose = (name: string) =>
  emit('change', { ...props.step, of: name, steps: name === 'original' ? [] : stepsOf<Given>(name) }, true)
</script>

<template>
  <div class="settings">
    <v-select label="Give back" :model-value="step.of ?? 'original'" :items="choices" @update:model-value="choose" />
    <p class="small quiet">Paint where a step took too much: what stands there instead comes from here.</p>
  </div>
</template>
