<script setup lang="ts">
import { mdiPackageDown } from '@mdi/js'

import CheckBoard from '../board/CheckBoard.vue'
import GuardedPart from '../parts/GuardedPart.vue'
import { provideKeys, useKeys } from '../parts/useKeys'
import { useSurround } from '../parts/useSurround'
import { cropped } from '../prints/printSteps'
import BenchCards from './BenchCards.vue'
import BenchDialogs from './BenchDialogs.vue'
import CropEditor from './CropEditor.vue'
import PictureSteps from './PictureSteps.vue'
import PictureStrip from './PictureStrip.vue'
import LargeView from './LargeView.vue'
import SizeStrip from './SizeStrip.vue'
import TakeBar from './TakeBar.vue'
import TheLine from './TheLine.vue'
import ViewBar from './ViewBar.vue'
import { provideBench, type BenchAddress } from './useBench'
import { useFraming } from './useFraming'

const props = defineProps<BenchAddress>()
const keys = provideKeys()
const bench = provideBench(props)
const { take, picture, job, open, boardSize, framing, deliverable, running, fault, panes, spots, list } = bench
const { changeFrame } = useFraming(bench)
const { next: nextSurround } = useSurround()

const boardSizes = ['folded', 'open', 'full'] as const
useKeys(() => [
  {
    key: 'v',
    shown: 'V',
    does: 'check board: open, whole view, folded',
    group: 'takes and check spots',
    run: nextBoard,
  },
  { key: 'g', shown: 'G', does: 'next surround grey', group: 'look', run: nextSurround },
  { key: '?', shown: '?', does: 'this sheet', group: 'look', run: () => (open.sheet = true) },
  { key: 'escape', shown: 'Esc', does: 'stop drawing; close the step', group: 'steps', run: letGo },
])

function nextBoard() {
  boardSize.value = boardSizes[(boardSizes.indexOf(boardSize.value) + 1) % boardSizes.length]!
}
/** Crop to the shape of the order; the frame opens, so that the crop is seen and can be moved. */
function fillOrder() {
  if (!take.value || !job.value?.order) return
  const steps = cropped(take.value, job.value.order)
  bench.change(steps, true)
  bench.openStep.value = steps.findIndex((step) => step.kind === 'frame')
}
function letGo() {
  if (bench.hands.drawing.value) bench.hands.drawing.value = null
  else bench.openStep.value = null
}
</script>

<template>
  <div class="bench">
    <header class="strip-bar">
      <RouterLink :to="{ name: 'job', params: { jobId } }" class="where" :title="`Back to ${job?.title ?? 'the job'}`">
        <img src="/mark.svg" alt="" width="22" height="22" />
        <span class="names">
          <span class="small quiet">{{ job?.title }}</span>
          <strong>{{ picture?.name }}</strong>
        </span>
      </RouterLink>
      <PictureSteps />
      <SizeStrip
        v-if="picture && take"
        class="strip"
        :job="job"
        :picture="picture"
        :take="take"
        @print="open.printPlanner = deliverable"
        @fill="fillOrder"
      />
      <v-btn
        class="deliver"
        color="primary"
        variant="flat"
        :prepend-icon="mdiPackageDown"
        title="Deliver (D)"
        :disabled="!deliverable"
        @click="open.delivery = true"
      >
        Deliver<template v-if="running">&nbsp;({{ running }} running)</template>
      </v-btn>
    </header>
    <PictureStrip v-if="open.strip && bench.pictures.value" :pictures="bench.pictures.value" :shown="pictureId" />
    <p v-if="fault" class="pa-6" role="alert">{{ fault.message }} <RouterLink to="/">All jobs</RouterLink></p>
    <main class="table">
      <aside class="left">
        <GuardedPart what="The takes"><TakeBar /></GuardedPart>
        <GuardedPart what="The line"><TheLine /></GuardedPart>
      </aside>
      <section class="view" aria-label="Picture">
        <CropEditor
          v-if="framing && take && picture"
          :step="framing"
          :take="take"
          :picture="picture"
          @change="changeFrame"
        />
        <LargeView
          v-else-if="take?.plan"
          :lead="take"
          :plan="take.plan"
          :takes="bench.shownTakes.value"
          :panes="panes"
        />
        <div v-else-if="take?.problem" class="problem">
          <p>{{ take.problem }}</p>
        </div>
        <GuardedPart what="The card"
          ><BenchCards v-if="take?.plan && !framing" :take="take" :plan="take.plan"
        /></GuardedPart>
      </section>
      <GuardedPart what="The check board">
        <CheckBoard
          v-if="picture"
          v-model:size="boardSize"
          class="wide"
          :takes="list"
          :spots="spots"
          :lead-id="take?.id"
          :picture="picture"
          @show="bench.show($event)"
          @look="bench.look"
          @duplicate="bench.begin.mutate($event.steps)"
          @rehearse="open.rehearsal = true"
        />
      </GuardedPart>
    </main>
    <ViewBar />
    <BenchDialogs :keys="keys.all.value" />
  </div>
</template>

<style scoped>
.bench {
  height: 100%;
  display: flex;
  flex-direction: column;
}
.strip-bar {
  display: flex;
  align-items: center;
  gap: 20px;
  min-height: 58px;
  padding: 6px 12px;
  background: rgb(var(--v-theme-surface));
  border-bottom: 1px solid rgba(var(--v-theme-on-surface), 0.14);
}
.where {
  display: flex;
  align-items: center;
  gap: 10px;
  width: 198px;
  flex: none;
  color: inherit;
  text-decoration: none;
}
.names {
  display: flex;
  flex-direction: column;
  min-width: 0;
  line-height: 1.25;
}
.names > * {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.strip {
  flex: 1;
}
.deliver {
  flex: none;
  margin-left: auto;
}
.table {
  position: relative;
  flex: 1;
  display: grid;
  grid-template: minmax(0, 1fr) auto / 292px minmax(0, 1fr);
  min-height: 0;
}
.left {
  overflow-y: auto;
  background: rgb(var(--v-theme-surface));
  border-right: 1px solid rgba(var(--v-theme-on-surface), 0.14);
}
.view {
  position: relative;
  background: rgb(var(--v-theme-background));
  overflow: hidden;
}
.problem {
  height: 100%;
  display: grid;
  place-items: center;
  padding: 48px;
  text-align: center;
}
.wide {
  grid-column: 1 / -1;
}
</style>
