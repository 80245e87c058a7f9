<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Schemas } from '../api/client'
import AnswerForm from './AnswerForm.vue'
import BeforeAndAfter from './BeforeAndAfter.vue'
import NoteForm from './NoteForm.vue'
import { printed, type Picture } from './showing'

const props = defineProps<{
  picture: Picture
  /** Where its pixels are. */
  base: string
  closed: boolean
  note: (body: Schemas['ClientNoteIn']) => Promise<boolean>
  say: (body: Schemas['ClientAnswerIn']) => Promise<boolean>
}>()
const name = defineModel<string>('name', { required: true })

/** Where a note is being written, in shares of the picture. */
const place = ref<{ x: number; y: number } | null>(null)
const size = computed(() =>
  [`${props.picture.width} × ${props.picture.height} px`, printed(props.picture)].filter(Boolean).join(', '),
)
const heading = computed(() => `picture-${props.picture.position}`)

async function leave(words: string) {
  if (await props.note({ ...place.value!, words, name: name.value })) place.value = null
}
</script>

<template>
  <section :aria-labelledby="heading">
    <h2 :id="heading">{{ picture.name }}</h2>
    <p class="small quiet">{{ size }}</p>
    <p v-if="picture.failed" class="fault">
      This picture could not be made ready. Whoever sent you the link can see why.
    </p>
    <p v-else-if="!picture.ready" class="quiet" role="status">It is being made ready; it appears here by itself.</p>
    <template v-else>
      <div class="beside">
        <BeforeAndAfter
          :before="`${base}/before.jpg`"
          :after="`${base}/after.jpg`"
          :width="picture.shown_width"
          :height="picture.shown_height"
          :notes="picture.notes"
          :place="place"
          :pointing="!closed"
          :name="picture.name"
          @point="place = $event"
        />
        <div class="said">
          <p v-if="!closed && !place" class="small quiet">
            Drag the line to compare. To say something about a place, choose
            <button class="plain" @click="place = { x: 0.5, y: 0.5 }">leave a note</button>
            or press long or double-click there.
          </p>
          <NoteForm v-if="place" v-model:name="name" v-model:place="place" @leave="leave" @cancel="place = null" />
          <ol v-if="picture.notes.length" class="notes">
            <li v-for="(one, index) in picture.notes" :key="index">
              <b>{{ one.name }}</b>: {{ one.words }}
            </li>
          </ol>
          <AnswerForm
            v-model:name="name"
            :answer="picture.answer"
            :closed="closed"
            :say="say"
            :picture="picture.name"
          />
          <details>
            <summary>What was done to it</summary>
            <ol v-if="picture.done.length">
              <li v-for="line in picture.done" :key="line">{{ line }}.</li>
            </ol>
            <p v-else>Nothing was done to its pixels.</p>
            <template v-if="picture.measured.length">
              <h3>How far it departs from what it was made from</h3>
              <ul>
                <li v-for="one in picture.measured" :key="one.title" class="small">
                  {{ one.title }}: {{ one.value }} {{ one.unit }}, {{ one.word }}.
                  <span class="quiet">{{ one.says }}</span>
                </li>
              </ul>
            </template>
            <p v-else class="small quiet">
              How much of it was invented is still being measured; open this page again later.
            </p>
          </details>
        </div>
      </div>
      <div v-if="picture.spots.length" class="spots">
        <h3>Looked at closely</h3>
        <p class="small quiet">Every pixel of the finished file, before and after.</p>
        <div v-for="(spot, index) in picture.spots" :key="index" class="spot">
          <figure>
            <img :src="`${base}/spots/${index}/before.jpg`" :alt="`${spot}, before`" loading="lazy" />
            <figcaption class="small">{{ spot }}, before</figcaption>
          </figure>
          <figure>
            <img :src="`${base}/spots/${index}/after.jpg`" :alt="`${spot}, after`" loading="lazy" />
            <figcaption class="small">after</figcaption>
          </figure>
        </div>
      </div>
    </template>
  </section>
</template>

<style scoped>
section {
  display: flex;
  flex-direction: column;
  gap: 12px;
  padding: 26px 0;
  border-top: 1px solid var(--line);
}
/* What is said of it stands beside the picture where there is room. */
.beside {
  display: grid;
  gap: 16px 28px;
  align-items: start;
}
@media (min-width: 960px) {
  .beside {
    grid-template-columns: minmax(0, max-content) minmax(300px, 1fr);
  }
  .beside > :first-child {
    width: 64vw;
    max-width: 860px;
  }
}
.said {
  display: flex;
  flex-direction: column;
  gap: 12px;
}
.notes {
  padding-left: 1.6em;
  margin: 0;
}
.spots {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.spot {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(100%, 300px), 560px));
  gap: 12px;
}
figure {
  margin: 0;
}
img {
  display: block;
  max-width: 100%;
  height: auto;
}
details ol,
details ul {
  padding-left: 1.6em;
  margin: 6px 0 10px;
}
summary {
  min-height: 44px;
  padding: 9px 0;
  cursor: pointer;
}
.plain {
  min-height: 24px;
  padding: 0;
  border: 0;
  background: none;
  color: var(--accent);
  text-decoration: underline;
}
</style>
