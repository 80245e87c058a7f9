<script setup lang="ts">
import { useMutation } from '@tanstack/vue-query'

import { answer, server, type Schemas } from '../api/client'
import { useNotice } from '../parts/useNotice'
import StrengthSlider from '../parts/StrengthSlider.vue'
import { kindOf, type StepOf } from './kinds'

type Grain = StepOf<'grain'>

const props = defineProps<{ step: Grain; take: Schemas['TakeOut']; picture: Schemas['PictureOut'] }>()
const emit = defineEmits<{ change: [step: Grain, now?: boolean] }>()
const set = (changed: Partial<Grain>, now?: boolean) => emit('change', { ...props.step, ...changed }, now)

/** Grain as the source has it, at the size it has once enlarged. */
const matching = useMutation({
  mutationFn: () => answer(server.GET('/api/takes/{take_id}/grain', { params: { path: { take_id: props.take.id } } })),
  onSuccess: ({ amount, size, colour, tones }) => set({ amount, size, colour, tones }, true),
  onError: useNotice().fault,
})
const usual = kindOf('grain').begun as StepOf<'grain'>
</script>

<template>
  <div class="settings">
    <v-btn
      size="small"
      :disabled="!picture.reading"
      :loading="matching.isPending.value"
      title="Amount, size and colour as the reading found them in the source"
      @click="matching.mutate()"
      >Match the source's</v-btn
    >
    <StrengthSlider
      label="Amount"
      unit="of 255"
      :value="step.amount"
      :usual="usual.amount"
      :max="40"
      :step="0.5"
      :digits="1"
      hint="Look at the printed size: it should be felt, not seen"
      @change="(amount, now) => set({ amount }, now)"
    />
    <StrengthSlider
      label="Size"
      unit="px"
      :value="step.size"
      :usual="usual.size"
      :min="0.5"
      :max="12"
      :step="0.1"
      :digits="1"
      @change="(size, now) => set({ size }, now)"
    />
    <StrengthSlider
      label="Colour"
      :value="step.colour"
      :usual="usual.colour"
      hint="0 is the grey grain of film"
      @change="(colour, now) => set({ colour }, now)"
    />
    <StrengthSlider
      label="Spare black and white"
      :value="step.tones"
      :usual="usual.tones"
      @change="(tones, now) => set({ tones }, now)"
    />
  </div>
</template>
