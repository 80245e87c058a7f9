<script setup lang="ts">
import { computed, ref } from 'vue'

import { number } from '../parts/format'
import type { Schemas } from '../api/client'
import { useScreen } from './useScreen'

const props = defineProps<{ size: Schemas['SizeOut']; ppi: number }>()
const emit = defineEmits<{ zoom: [scale: number]; measure: []; page: [] }>()
const { screen, trueScale } = useScreen()
const open = ref(false)

const centimetres = (pixels: number) => (pixels / props.ppi) * 2.54
const diagonal = computed(() => Math.max(25, Math.hypot(centimetres(props.size.width), centimetres(props.size.height))))
const stands = computed(() => screen.stands ?? diagonal.value)
const told = computed(
  () =>
    [props.size.width, props.size.height].map((side) => number(centimetres(side), 1)).join(' × ') +
    ` cm at ${number(props.ppi, 0)} ppi`,
)
const typed = (event: Event) => {
  const value = Number((event.target as HTMLInputElement).value.replace(',', '.'))
  return value > 0 ? value : null
}
/** An eye that sits nearer to the screen than it will stand before the print sees it as large when it is drawn smaller. */
const far = computed(() => trueScale(props.ppi) * (screen.sits / stands.value))

function zoom(scale: number) {
  emit('zoom', scale)
  open.value = false
}
defineExpose({ trueSize: () => emit('zoom', trueScale(props.ppi)), fromFar: () => emit('zoom', far.value) })
</script>

<template>
  <v-menu v-model="open" :close-on-content-click="false">
    <template #activator="{ props: opener }">
      <button
        v-bind="opener"
        class="opener"
        aria-label="As the print"
        title="True size (6), from a distance (7), on a page (8)"
      >
        print ▾
      </button>
    </template>
    <v-card class="pa-4 as" aria-label="As the print will be met">
      <p class="small quiet">{{ told }}</p>
      <v-btn variant="outlined" @click="zoom(trueScale(ppi))">True size</v-btn>
      <p v-if="!screen.fineness" class="small">
        This screen has not been measured; 96 pixels to the inch are supposed.
      </p>
      <button class="small link" @click="(emit('measure'), (open = false))">
        {{ screen.fineness ? 'Measure this screen again' : 'Measure this screen' }}
      </button>
      <hr />
      <v-btn variant="outlined" @click="zoom(far)">From its distance</v-btn>
      <label class="small"
        >The print is seen from
        <input
          :value="screen.stands ?? ''"
          :placeholder="number(diagonal, 0)"
          inputmode="decimal"
          aria-label="The print is seen from, cm"
          @change="screen.stands = typed($event)"
        />
        cm</label
      >
      <label class="small"
        >I sit
        <input
          :value="screen.sits"
          inputmode="decimal"
          aria-label="I sit from the screen, cm"
          @change="screen.sits = typed($event) ?? 60"
        />
        cm from the screen</label
      >
      <hr />
      <v-btn variant="outlined" @click="(emit('page'), (open = false))">On a page or slide</v-btn>
    </v-card>
  </v-menu>
</template>

<style scoped>
.opener {
  padding: 3px 8px;
  font-size: 13px;
  border: 1px solid rgba(var(--v-theme-on-surface), 0.26);
  border-radius: 4px;
  white-space: nowrap;
  cursor: pointer;
}
.as {
  display: flex;
  flex-direction: column;
  gap: 8px;
  width: 280px;
}
hr {
  border: 0;
  border-top: 1px solid rgba(var(--v-theme-on-surface), 0.16);
}
.link {
  align-self: start;
  text-decoration: underline dotted;
  cursor: pointer;
}
label input {
  width: 52px;
  padding: 1px 4px;
  text-align: right;
  border: 1px solid rgba(var(--v-theme-on-surface), 0.3);
  border-radius: 3px;
}
</style>
