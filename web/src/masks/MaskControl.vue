<script setup lang="ts">
import { mdiBrush, mdiClose, mdiContentCopy, mdiContentPaste, mdiEye, mdiInvertColors, mdiPlus } from '@mdi/js'
import { computed } from 'vue'

import type { Schemas } from '../api/client'
import MaskPart from './MaskPart.vue'
import { kinds, partText, waitsFor, ways, type How, type Kind, type Mask, type Part, type PartOf } from './parts'
import { useBrush } from './useBrush'

/** Where a step works: parts that are added, taken away or met, each with settings of its own. */
const props = defineProps<{
  mask: Mask | null
  index: number
  what: string
  picture: Schemas['PictureOut']
  /** What is being picked or drawn on the picture for the open part, and what is being looked for. */
  picking: boolean
  finding: number | null
}>()
const emit = defineEmits<{
  change: [mask: Mask | null, now?: boolean]
  add: [kind: Kind]
  pick: []
  find: []
  /** The open part is looked for anew with something about it changed, once that has been quiet for so many milliseconds. */
  again: [changed: Partial<PartOf<'found'>>, quiet?: number]
  /** The brush taken up or put down for strokes that say what the open part is. */
  hints: []
  paint: []
}>()
const { painting, part: opened, overlay, copied } = useBrush()

const active = computed(() => painting.value === props.index)
const parts = computed(() => props.mask?.parts ?? [])
const givesBack = computed(() => props.what === 'give back')
const waiting = computed(() =>
  parts.value
    .filter((part) => part.on)
    .map(waitsFor)
    .find(Boolean),
)

function setPart(place: number, changed: Partial<Part>, now?: boolean) {
  const part = { ...parts.value[place]!, ...changed } as Part
  emit('change', { ...props.mask!, parts: parts.value.with(place, part) }, now)
}
const clone = (mask: Mask) => JSON.parse(JSON.stringify(mask)) as Mask
function remove(place: number) {
  if (opened.value === place) opened.value = painting.value = null
  else if (opened.value !== null && opened.value > place) opened.value--
  emit('change', { ...props.mask!, parts: parts.value.toSpliced(place, 1) }, true)
}
function open(place: number) {
  painting.value = null
  opened.value = opened.value === place ? null : place
}
function everywhere() {
  painting.value = opened.value = null
  emit('change', null, true)
}
</script>

<template>
  <section class="mask" aria-label="Mask">
    <div class="line">
      <span v-if="!mask" class="quiet small">{{ givesBack ? 'gives back nowhere yet' : 'works everywhere' }}</span>
      <span v-else class="small">{{ mask.inverted ? 'everywhere but in' : 'works in' }}</span>
      <v-spacer />
      <v-btn
        v-if="!mask && copied"
        :icon="mdiContentPaste"
        size="x-small"
        aria-label="Put the copied mask here"
        title="Put the copied mask here"
        @click="emit('change', clone(copied), true)"
      />
      <template v-if="mask">
        <v-btn
          :icon="mdiEye"
          size="x-small"
          :active="overlay"
          aria-label="Show the mask"
          title="Show the mask while a part of it is open"
          @click="overlay = !overlay"
        />
        <v-btn
          :icon="mdiInvertColors"
          size="x-small"
          :active="mask.inverted"
          aria-label="Invert the mask"
          title="Invert: work everywhere but there"
          @click="emit('change', { ...mask, inverted: !mask.inverted }, true)"
        />
        <v-btn
          :icon="mdiContentCopy"
          size="x-small"
          aria-label="Copy the mask"
          title="Copy the mask, to be put on another step"
          @click="copied = clone(mask)"
        />
      </template>
      <v-btn
        size="small"
        :prepend-icon="mdiBrush"
        :active="active"
        :color="active ? 'primary' : undefined"
        title="Paint where the step works (Q)"
        @click="emit('paint')"
      >
        {{ active ? 'Painting' : 'Paint' }}
      </v-btn>
      <v-menu>
        <template #activator="{ props: opener }">
          <v-btn
            v-bind="opener"
            :icon="mdiPlus"
            size="x-small"
            aria-label="Add a part to the mask"
            title="Add a part: gradients, tones, colours, faces, sky …"
          />
        </template>
        <v-list density="compact">
          <v-list-item
            v-for="one in kinds"
            :key="one.kind"
            :title="one.title"
            :subtitle="one.what"
            @click="emit('add', one.kind)"
          />
        </v-list>
      </v-menu>
    </div>
    <template v-if="mask">
      <p v-if="!parts.length && !mask.inverted" class="small quiet">
        Nothing is painted yet, so the step works nowhere.
      </p>
      <p v-else-if="waiting" class="small quiet">{{ waiting }}.</p>
      <ol v-if="parts.length" class="parts" aria-label="Parts of the mask">
        <li v-for="(part, place) in parts" :key="place" :class="{ off: !part.on }">
          <div class="row">
            <input
              type="checkbox"
              :checked="part.on"
              :aria-label="`${partText(part)} on`"
              @change="setPart(place, { on: ($event.target as HTMLInputElement).checked }, true)"
            />
            <select
              v-if="place"
              class="small"
              :value="part.how"
              :aria-label="`How ${partText(part)} meets the parts above`"
              :title="ways.find((way) => way.value === part.how)?.what"
              @change="setPart(place, { how: ($event.target as HTMLSelectElement).value as How }, true)"
            >
              <option v-for="way in ways" :key="way.value" :value="way.value">{{ way.title }}</option>
            </select>
            <button class="name small" :aria-expanded="opened === place" @click="open(place)">
              {{ part.inverted ? 'all but ' : '' }}{{ partText(part) }}
            </button>
            <v-btn
              :icon="mdiClose"
              size="x-small"
              :aria-label="`Remove ${partText(part)}`"
              title="Remove this part"
              @click="remove(place)"
            />
          </div>
          <MaskPart
            v-if="opened === place"
            :part="part"
            :active="active"
            :picture="picture"
            :picking="picking"
            :finding="finding"
            @change="(changed, now) => setPart(place, changed, now)"
            @pick="emit('pick')"
            @find="emit('find')"
            @again="(changed, quiet) => emit('again', changed, quiet)"
            @hints="emit('hints')"
          />
        </li>
      </ol>
      <button class="small quiet clear" @click="everywhere">
        {{ givesBack ? 'paint nothing' : 'work everywhere again' }}
      </button>
    </template>
  </section>
</template>

<style scoped>
.mask {
  margin-top: 10px;
  padding-top: 8px;
  border-top: 1px solid rgba(var(--v-theme-on-surface), 0.14);
  display: grid;
  gap: 6px;
}
.line {
  display: flex;
  align-items: center;
  gap: 1px;
}
.line .v-btn {
  min-width: 0;
  padding: 0 6px;
}
.parts {
  list-style: none;
  padding: 0;
}
.parts li {
  border-top: 1px solid rgba(var(--v-theme-on-surface), 0.12);
  padding: 2px 0;
}
.row {
  display: flex;
  align-items: center;
  gap: 6px;
  min-height: 28px;
}
.name {
  flex: 1;
  text-align: left;
  cursor: pointer;
}
.off .name {
  text-decoration: line-through;
  opacity: 0.7;
}
input[type='checkbox'] {
  accent-color: rgb(var(--v-theme-primary));
}
select {
  padding: 1px 2px;
  border: 1px solid rgba(var(--v-theme-on-surface), 0.3);
  border-radius: 3px;
  background: rgb(var(--v-theme-surface));
  color: inherit;
}
.clear {
  justify-self: start;
  text-decoration: underline;
  cursor: pointer;
}
</style>
