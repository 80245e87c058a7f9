<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import { useEnginesOf } from '../engines/useEngines'
import TopBar from '../shell/TopBar.vue'
import { colourSpaces } from '../deliveries/colourSpaces'
import { formats } from '../deliveries/output'
import NewPassword from '../settings/NewPassword.vue'
import { useDefaults, type Defaults } from '../settings/useDefaults'

const { defaults, change } = useDefaults()
const engines = useEnginesOf('enlarge')
const draft = ref<Defaults>()
const typed = ref({ factor: '', largest: '', ppi: '' })
watch(
  defaults,
  (now) => {
    if (!now) return
    draft.value = { ...now, spec: { ...now.spec } }
    typed.value = { factor: String(now.factor), largest: String(now.largest_side), ppi: String(now.ppi) }
  },
  { immediate: true },
)

/** What each word stands for in the example. */
const example: Record<string, string> = {
  picture: 'Harbour wall 1988',
  job: 'Tern Sands exhibition',
  take: 'A',
  steps: 'denoise-enlarge',
  engine: 'faithful',
  factor: '3.7x',
  width: '1984',
  height: '2646',
  ppi: '240',
  output: 'web',
  date: '2026-11-25',
}
const words = Object.keys(example)
const holds16 = computed(() => ['tiff', 'png'].includes(draft.value?.spec.format ?? 'tiff'))
const shown = computed(() => {
  const stem = (draft.value?.name ?? '')
    .replace(/\{([^{}]*)\}/g, (whole, word: string) => example[word] ?? whole)
    .replace(/\s+/g, ' ')
    .trim()
  const endings = { tiff: '.tif', png: '.png', jpeg: '.jpg', webp: '.webp', pdf: '.pdf', dng: '.dng' }
  return `${stem}${endings[draft.value?.spec.format ?? 'tiff']}`
})
function addWord(word: string) {
  if (draft.value) draft.value.name = `${draft.value.name.trimEnd()} {${word}}`.trim()
}

const numeric = (text: string) => Number(text.replace(',', '.').replace(/[x×]/gi, ''))
function save() {
  if (!draft.value) return
  change.mutate({
    ...draft.value,
    factor: numeric(typed.value.factor),
    largest_side: Math.round(numeric(typed.value.largest)),
    ppi: numeric(typed.value.ppi),
  })
}
</script>

<template>
  <div class="d-flex flex-column" style="height: 100%">
    <TopBar>Settings</TopBar>
    <div class="page">
      <form v-if="draft" class="page-inner narrow" @submit.prevent="save">
        <h1>What you usually want</h1>
        <p class="quiet mb-4">
          A new picture starts from this and from what was ordered, never from the last picture's settings.
        </p>
        <section class="fields">
          <h2 class="wide">New takes</h2>
          <v-text-field
            v-model="typed.factor"
            label="Enlarge by, where no print is ordered"
            suffix="×"
            inputmode="decimal"
          />
          <v-select
            v-model="draft.engine"
            label="Engine"
            :items="engines.map((one) => ({ value: one.id, title: one.name }))"
          />
          <v-text-field v-model="typed.largest" label="Longest side at most" suffix="px" inputmode="numeric" />
          <v-checkbox v-model="draft.suggest" label="Suggest a start from the reading" />
          <v-checkbox
            v-model="draft.ahead"
            class="wide"
            label="While nothing is asked for, compute what may be looked at next"
            hint="Neighbours of the view, other takes at its place, cells of the check board; gives way at once."
            persistent-hint
          />
        </section>
        <section class="fields">
          <h2 class="wide">Deliveries</h2>
          <v-select v-model="draft.spec.format" label="Format" :items="formats" />
          <v-select
            v-if="holds16"
            v-model="draft.spec.depth"
            label="Depth"
            :items="[
              { value: 16, title: '16 bit' },
              { value: 8, title: '8 bit' },
            ]"
          />
          <v-text-field
            v-else
            v-model.number="draft.spec.quality"
            label="Quality"
            inputmode="numeric"
            min="1"
            max="100"
          />
          <v-select v-model="draft.spec.profile" label="Colour space" :items="colourSpaces('Keep the source’s')" />
          <v-text-field v-model="typed.ppi" label="ppi, where neither order nor file tells" inputmode="decimal" />
          <v-text-field v-model="draft.name" class="wide" label="Name of a file" maxlength="200" />
          <p class="wide small">
            <span class="quiet">such as</span> <strong>{{ shown }}</strong>
          </p>
          <div class="wide words">
            <button
              v-for="word in words"
              :key="word"
              type="button"
              class="small"
              :title="`Such as ${example[word]}`"
              @click="addWord(word)"
            >
              {{ `{${word}\}` }}
            </button>
          </div>
        </section>
        <p v-if="change.error.value" role="alert" class="fault">{{ change.error.value.message }}</p>
        <div class="d-flex justify-end">
          <v-btn type="submit" color="primary" variant="flat" :loading="change.isPending.value">Save</v-btn>
        </div>
      </form>
      <div class="page-inner narrow after"><NewPassword /></div>
    </div>
  </div>
</template>

<style scoped>
.narrow {
  max-width: 680px;
}
.after {
  padding-top: 0;
}
.fields {
  padding: 16px 0;
  border-top: 1px solid rgba(var(--v-theme-on-surface), 0.14);
}
.words {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
.words button {
  padding: 1px 8px;
  border: 1px solid rgba(var(--v-theme-on-surface), 0.26);
  border-radius: 10px;
  cursor: pointer;
}
</style>
