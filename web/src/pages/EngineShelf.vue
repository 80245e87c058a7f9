<script setup lang="ts">
import { mdiPlus } from '@mdi/js'
import { computed, ref, watch } from 'vue'

import TopBar from '../shell/TopBar.vue'
import { useNotice } from '../parts/useNotice'
import BringEngine from '../engines/BringEngine.vue'
import EngineCard from '../engines/EngineCard.vue'
import { useEngineChanges, useEngines, type Engine } from '../engines/useEngines'

const { data: engines, isLoading, error } = useEngines()
const { measure, remove, putBack } = useEngineChanges()
const notice = useNotice()
const bringing = ref(false)

const shelves = computed(() => [
  { title: 'To enlarge', engines: engines.value?.filter((engine) => engine.kind === 'enlarge') ?? [] },
  {
    title: 'To restore at the size it has',
    engines: engines.value?.filter((engine) => engine.kind !== 'enlarge') ?? [],
  },
])

/** Engines waiting for their speed; one at a time, or they would slow each other down. */
const queue = ref<string[]>([])
const measuring = ref<string | null>(null)
async function work() {
  if (measuring.value) return
  while (queue.value.length) {
    measuring.value = queue.value.shift()!
    try {
      await measure.mutateAsync(measuring.value)
    } catch (fault) {
      notice.fault(fault)
      queue.value = []
    }
  }
  measuring.value = null
}
function ask(id: string) {
  if (!queue.value.includes(id)) queue.value.push(id)
  void work()
}
// What has never been measured on this machine is measured when the shelf is first looked at.
watch(
  () => engines.value === undefined,
  (waiting) => {
    if (waiting) return
    for (const engine of engines.value ?? [])
      if (engine.network && engine.source_megapixels_per_second === null) ask(engine.id)
  },
  { immediate: true },
)

function takeOff(engine: Engine) {
  remove.mutate(engine.id, {
    onSuccess: () =>
      notice.say(`${engine.name} is off the shelf.`, {
        label: 'Put back',
        run: () => putBack.mutate(engine.id, { onError: notice.fault }),
      }),
    onError: notice.fault,
  })
}
</script>

<template>
  <div class="d-flex flex-column" style="height: 100%">
    <TopBar />
    <div class="page">
      <div class="page-inner">
        <div class="page-head">
          <div>
            <h1>Engines</h1>
            <p class="quiet">
              What runs inside a step. Move over a sample to compare; it is computed here, now, by the engine itself.
            </p>
          </div>
          <v-btn color="primary" variant="flat" :prepend-icon="mdiPlus" @click="bringing = true">Bring your own</v-btn>
        </div>
        <p v-if="error" role="alert">{{ error.message }}</p>
        <v-progress-linear v-else-if="isLoading" indeterminate />
        <section v-for="shelf in shelves" v-else :key="shelf.title">
          <h2>{{ shelf.title }}</h2>
          <div class="cards">
            <EngineCard
              v-for="engine in shelf.engines"
              :key="engine.id"
              :engine="engine"
              :measuring="measuring === engine.id || queue.includes(engine.id)"
              @measure="ask(engine.id)"
              @remove="takeOff(engine)"
            />
          </div>
        </section>
      </div>
    </div>
    <BringEngine v-model="bringing" />
  </div>
</template>

<style scoped>
section h2 {
  margin: 18px 0 10px;
}
.cards {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(340px, 1fr));
  gap: 14px;
}
</style>
