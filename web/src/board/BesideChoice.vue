<script setup lang="ts">
import { mdiCompareHorizontal } from '@mdi/js'

import type { Picture } from '../pictures/queries'
import { useBeside } from './useBeside'

/** Which other picture of the same has its takes on the board. */
const props = defineProps<{ picture: Picture }>()
const { choices, other, choose } = useBeside(() => props.picture)
</script>

<template>
  <v-menu v-if="choices.length">
    <template #activator="{ props: opener }">
      <v-btn
        v-bind="opener"
        size="small"
        :prepend-icon="mdiCompareHorizontal"
        :active="Boolean(other)"
        :loading="choose.isPending.value"
        :title="
          other
            ? `The takes of ${other.name} stand here as well`
            : 'Takes of another picture of the same become rows, too'
        "
        >Beside</v-btn
      >
    </template>
    <v-list density="compact" aria-label="Beside">
      <v-list-item v-if="other" title="None" @click="choose.mutate(null)" />
      <v-list-item
        v-for="one in choices"
        :key="one.id"
        :title="one.name"
        :subtitle="`${one.facts.width} × ${one.facts.height} px`"
        :active="one.id === other?.id"
        @click="choose.mutate(one.id)"
      />
    </v-list>
  </v-menu>
</template>
