<script setup lang="ts">
import ChoiceRow from '../parts/ChoiceRow.vue'

type Passes = 1 | 2 | 8

defineProps<{ passes: Passes }>()
defineEmits<{ change: [passes: Passes] }>()

const choices = [
  { value: 1 as Passes, title: '1 pass', what: 'The network sees the picture once' },
  {
    value: 2 as Passes,
    title: '2',
    what: 'Mirrored as well, and the mean: a little nearer to the truth, twice the time',
  },
  {
    value: 8 as Passes,
    title: '8',
    what: 'Turned and mirrored in every way: nearest, eight times the time; for the last file',
  },
]
</script>

<template>
  <ChoiceRow label="Passes" :choices="choices" :chosen="passes" @choose="$emit('change', $event)" />
</template>
