<script setup lang="ts">
import { useEnginesOf, type EngineKind } from '../engines/useEngines'

const props = defineProps<{ kind: EngineKind; chosen: string }>()
const emit = defineEmits<{ choose: [engine: string] }>()
const engines = useEnginesOf(props.kind)
</script>

<template>
  <fieldset>
    <legend class="small quiet">Engine</legend>
    <label v-for="engine in engines" :key="engine.id" class="engine" :class="{ chosen: engine.id === chosen }">
      <input
        type="radio"
        :name="`engine-${kind}`"
        :value="engine.id"
        :checked="engine.id === chosen"
        @change="emit('choose', engine.id)"
      />
      <span
        ><strong>{{ engine.name }}</strong
        ><span class="small quiet">{{ engine.purpose }}</span></span
      >
    </label>
    <p v-if="engines.length && !engines.some((engine) => engine.id === chosen)" class="small" role="alert">
      “{{ chosen }}” is no longer on the shelf; choose another.
    </p>
  </fieldset>
</template>

<style scoped>
fieldset {
  border: 0;
  padding: 0;
}
.engine {
  display: grid;
  grid-template-columns: 20px 1fr;
  padding: 5px 6px 5px 4px;
  cursor: pointer;
  border-left: 2px solid transparent;
  line-height: 1.3;
}
.engine.chosen {
  border-color: rgb(var(--v-theme-primary));
  background: rgba(var(--v-theme-on-surface), 0.06);
}
.engine span span {
  display: block;
}
input[type='radio'] {
  align-self: start;
  margin: 3px 0 0;
  accent-color: rgb(var(--v-theme-primary));
}
</style>
