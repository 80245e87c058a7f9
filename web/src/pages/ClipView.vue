<script setup lang="ts">
import { mdiCompareHorizontal, mdiContentCut, mdiLayersTriple, mdiMagnifyScan } from '@mdi/js'
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'

import { answer, server, type Schemas } from '../api/client'
import { leaveBoard } from '../board/boardSize'
import ClipStrip from '../clips/ClipStrip.vue'
import FaceMoments from '../clips/FaceMoments.vue'
import { around, marked, mostFused, mostPulled, sharpest, type Range } from '../clips/marks'
import { clipQueries } from '../clips/queries'
import { useClipFrame } from '../clips/useClipFrame'
import { useJob } from '../jobs/useJobs'
import ChoiceRow from '../parts/ChoiceRow.vue'
import { number, pixelSize } from '../parts/format'
import KeySheet from '../parts/KeySheet.vue'
import { provideKeys, useKeys } from '../parts/useKeys'
import { useNotice } from '../parts/useNotice'
import TopBar from '../shell/TopBar.vue'

/** A clip: looked through frame by frame, its sharpest moments, stills pulled from it or fused of several frames. */
const props = defineProps<{ jobId: string; clipId: string }>()
const { data: job } = useJob(() => props.jobId)
const { data: clip, error } = useQuery(() => clipQueries.one(props.clipId))
const { data: times } = useQuery(() => clipQueries.times(props.clipId))
const { data: curve } = useQuery(() => clipQueries.curve(props.clipId))
const { data: faces } = useQuery(() => ({
  ...clipQueries.moments(props.clipId),
  enabled: curve.value?.state === 'done',
}))
const moments = computed(() => faces.value?.moments?.moments ?? [])
const client = useQueryClient()
const notice = useNotice()

const index = ref(0)
const range = ref<Range | null>(null)
const whole = ref(false)
const factor = ref<1 | 2>(1)
const last = computed(() => (clip.value?.facts.frames ?? 1) - 1)
const all = computed<Range>(() => range.value ?? { first: 0, last: last.value })
const code = (frame: number) => times.value?.codes[frame] ?? ''
/** Before the times are there, its number tells which it is. */
const codeText = (frame: number) => code(frame) || `frame ${frame + 1}`
const sharpness = computed(() => curve.value?.curve?.sharpness)

function go(frame: number) {
  index.value = Math.max(0, Math.min(last.value, frame))
}
const mark = (end: 'first' | 'last') => (range.value = marked(range.value, end, index.value))

const side = computed(() => (whole.value ? 8192 : 1280))
const { shown, failed, there } = useClipFrame(
  computed(() => `/api/clips/${props.clipId}/frames/${index.value}?side=${side.value}`),
  computed(() => (sharpness.value && !whole.value ? `/api/clips/${props.clipId}/looks/${index.value}` : '')),
)

const best = computed(() => sharpest(all.value, sharpness.value))
/** What is fused: the marked frames, or those around the sharpest if too many are marked. */
const fusing = computed(() => around(best.value, all.value, range.value ? mostFused : 8))
const fusable = computed(() => fusing.value.last > fusing.value.first)

/** The marked frames, to be pulled one by one. */
const pullable = computed(() =>
  Array.from({ length: all.value.last - all.value.first + 1 }, (_, place) => all.value.first + place),
)

const made = ref<Schemas['PictureOut'][]>([])
async function taken(pictures: Schemas['PictureOut'][]) {
  made.value = [...pictures, ...made.value]
  await client.invalidateQueries({ queryKey: ['pictures'] })
  notice.say(
    pictures.length === 1 ? `${pictures[0]!.name} is in the job.` : `${pictures.length} stills are in the job.`,
  )
}
const path = computed(() => ({ params: { path: { clip_id: props.clipId } } }))
const pull = useMutation({
  mutationFn: (frames: number[]) =>
    answer(server.POST('/api/clips/{clip_id}/pull', { ...path.value, body: { frames } })),
  onSuccess: taken,
  onError: notice.fault,
})
const fuse = useMutation({
  mutationFn: () =>
    answer(
      server.POST('/api/clips/{clip_id}/fuse', {
        ...path.value,
        body: { ...fusing.value, best: best.value, factor: factor.value },
      }),
    ),
  onSuccess: (picture) => taken([picture]),
  onError: notice.fault,
})

const router = useRouter()
const compare = useMutation({
  mutationFn: async () => {
    const [picture, other] = made.value as [Schemas['PictureOut'], Schemas['PictureOut']]
    const path = { params: { path: { picture_id: picture.id } } }
    await answer(server.PUT('/api/pictures/{picture_id}/beside', { ...path, body: { picture_id: other.id } }))
    await client.invalidateQueries({ queryKey: ['pictures'] })
    leaveBoard(picture.id, 'open')
    await router.push({ name: 'bench', params: { jobId: props.jobId, pictureId: picture.id } })
  },
  onError: notice.fault,
})

const sheet = ref(false)
const keys = provideKeys()
useKeys(() => [
  { key: 'arrowleft', shown: '←', does: 'frame before', group: 'look', run: () => go(index.value - 1) },
  { key: 'arrowright', shown: '→', does: 'next frame', group: 'look', run: () => go(index.value + 1) },
  { key: 'shift+arrowleft', shown: 'Shift ←', does: 'ten back', group: 'look', run: () => go(index.value - 10) },
  { key: 'shift+arrowright', shown: 'Shift →', does: 'ten on', group: 'look', run: () => go(index.value + 10) },
  { key: 'home', shown: 'Home', does: 'first frame', group: 'look', run: () => go(0) },
  { key: 'end', shown: 'End', does: 'last frame', group: 'look', run: () => go(last.value) },
  { key: '1', shown: '1', does: 'pixel for pixel', group: 'look', run: () => (whole.value = !whole.value) },
  { key: '[', shown: '[', does: 'the range begins here', group: 'by hand', run: () => mark('first') },
  { key: ']', shown: ']', does: 'the range ends here', group: 'by hand', run: () => mark('last') },
  { key: '?', shown: '?', does: 'this sheet', group: 'look', run: () => (sheet.value = true) },
  { key: 'enter', shown: 'Enter', does: 'pull this frame', group: 'by hand', run: () => pull.mutate([index.value]) },
])
</script>

<template>
  <div class="clip">
    <TopBar
      ><RouterLink to="/" class="back">Jobs</RouterLink> ▸
      <RouterLink :to="{ name: 'job', params: { jobId } }" class="back">{{ job?.title }}</RouterLink> ▸
      {{ clip?.name }}</TopBar
    >
    <p v-if="error" role="alert" class="pa-6">{{ error.message }}</p>
    <div v-else-if="clip" class="body">
      <div class="stage" :class="{ whole }" tabindex="0" aria-label="Frame" :data-exact="there">
        <img v-if="shown" :src="shown" :alt="`Frame ${index + 1}`" draggable="false" />
        <span class="tag small" role="status">{{
          failed ? 'this frame cannot be decoded' : `frame ${index + 1} of ${last + 1} · ${code(index)}`
        }}</span>
      </div>
      <aside class="side" aria-label="Stills">
        <p class="small quiet">
          {{ pixelSize(clip.facts) }} px · {{ clip.facts.codec }} · {{ clip.facts.bits }} bit {{ clip.facts.chroma }} ·
          {{ number(clip.facts.rate, 2) }} frames a second{{ clip.facts.steady ? '' : ' in the mean' }}
        </p>
        <p v-for="note in clip.facts.notes" :key="note" class="small quiet">{{ note }}</p>
        <v-btn
          variant="flat"
          color="primary"
          :prepend-icon="mdiContentCut"
          :loading="pull.isPending.value"
          title="It becomes a picture of the job, 16 bit (Enter)"
          @click="pull.mutate([index])"
          >Pull this frame</v-btn
        >
        <v-btn
          size="small"
          :prepend-icon="mdiMagnifyScan"
          :active="whole"
          title="Pixel for pixel (1)"
          @click="whole = !whole"
          >Pixel for pixel</v-btn
        >
        <h3>Sharpest moments</h3>
        <p v-if="curve?.state === 'failed'" class="small" role="alert">{{ curve.message }}</p>
        <p v-else-if="!curve?.curve" class="small quiet" role="status">
          looking through it, {{ Math.round(100 * (curve?.progress ?? 0)) }} %
        </p>
        <ul v-else class="moments">
          <li v-for="frame in curve.curve.peaks" :key="frame">
            <button class="link" :aria-pressed="frame === index" @click="go(frame)">{{ codeText(frame) }}</button>
            <v-btn size="x-small" :title="`Pull frame ${frame + 1}`" @click="pull.mutate([frame])">Pull</v-btn>
          </li>
          <li v-if="!curve.curve.peaks.length" class="quiet small">None stands out: it is equally sharp throughout.</li>
        </ul>
        <FaceMoments
          v-if="curve?.curve"
          :faces="faces"
          :index="index"
          :code="codeText"
          @go="go"
          @pull="pull.mutate([$event])"
        />
        <h3>Fuse</h3>
        <p class="small quiet">
          Neighbouring frames become one cleaner picture; what moves is taken from the sharpest of them alone.
        </p>
        <div class="ends">
          <v-btn size="small" title="The range begins here ( [ )" @click="mark('first')">Begin here</v-btn>
          <v-btn size="small" title="The range ends here ( ] )" @click="mark('last')">End here</v-btn>
          <button v-if="range" class="link small quiet" @click="range = null">no range</button>
        </div>
        <v-btn
          v-if="range"
          size="small"
          :prepend-icon="mdiContentCut"
          :disabled="pullable.length > mostPulled"
          :loading="pull.isPending.value"
          :title="
            pullable.length > mostPulled
              ? `Up to ${mostPulled} frames are pulled at once; mark a shorter range`
              : 'Each becomes a picture of the job'
          "
          @click="pull.mutate(pullable)"
          >Pull all {{ pullable.length }} of them</v-btn
        >
        <ChoiceRow
          label="Grid"
          :choices="[
            { value: 1, title: 'As it is' },
            { value: 2, title: 'Twice as fine' },
          ]"
          :chosen="factor"
          @choose="factor = $event"
        />
        <v-btn
          size="small"
          variant="outlined"
          :prepend-icon="mdiLayersTriple"
          :disabled="!fusable"
          :loading="fuse.isPending.value"
          @click="fuse.mutate()"
          >Fuse frames {{ fusing.first + 1 }} to {{ fusing.last + 1 }}</v-btn
        >
        <template v-if="made.length">
          <h3>Taken</h3>
          <ul class="moments" aria-label="Taken">
            <li v-for="picture in made" :key="picture.id">
              <RouterLink :to="{ name: 'bench', params: { jobId, pictureId: picture.id } }">{{
                picture.name
              }}</RouterLink>
            </li>
          </ul>
          <v-btn
            v-if="made.length > 1"
            size="small"
            variant="outlined"
            :prepend-icon="mdiCompareHorizontal"
            :loading="compare.isPending.value"
            :title="`${made[0]!.name} and ${made[1]!.name} on one check board`"
            @click="compare.mutate()"
            >Compare the last two</v-btn
          >
        </template>
      </aside>
      <ClipStrip
        class="strip"
        :clip-id="clipId"
        :frames="last + 1"
        :index="index"
        :range="range"
        :sharpness="sharpness"
        :peaks="curve?.curve?.peaks ?? []"
        :moments="moments"
        @keys="sheet = true"
        @go="go"
      />
    </div>
    <KeySheet v-model="sheet" :keys="keys.all.value" title="Keys of a clip" />
  </div>
</template>

<style scoped>
.clip {
  height: 100%;
  display: flex;
  flex-direction: column;
}
.back {
  color: inherit;
}
.body {
  flex: 1;
  min-height: 0;
  display: grid;
  grid-template: minmax(0, 1fr) auto / minmax(0, 1fr) 290px;
}
.stage {
  position: relative;
  overflow: hidden;
  background: rgb(var(--v-theme-background));
}
.stage img {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  object-fit: contain;
}
.stage.whole {
  overflow: auto;
}
.stage.whole img {
  position: static;
  width: auto;
  height: auto;
}
.tag {
  position: absolute;
  left: 10px;
  top: 10px;
  padding: 2px 8px;
  background: rgba(var(--v-theme-surface), 0.86);
  border-radius: 3px;
}
.side {
  overflow-y: auto;
  padding: 12px;
  display: grid;
  gap: 8px;
  align-content: start;
  border-left: 1px solid rgba(var(--v-theme-on-surface), 0.14);
  background: rgb(var(--v-theme-surface));
}
.side h3 {
  margin-top: 8px;
  font-size: 14px;
}
.moments {
  list-style: none;
  padding: 0;
}
.moments li {
  display: flex;
  justify-content: space-between;
  align-items: center;
  padding: 2px 0;
}
.moments a {
  color: inherit;
}
.ends {
  display: flex;
  align-items: center;
  gap: 6px;
}
.strip {
  grid-column: 1 / -1;
}
</style>
