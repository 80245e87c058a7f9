<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'

import { answer, server, type Schemas } from '../api/client'
import { length, number, pixelSize } from '../parts/format'
import { useNotice } from '../parts/useNotice'
import ChoiceRow from '../parts/ChoiceRow.vue'
import { besidesText, forPaper, insideBorder, printSteps } from './printSteps'
import { usePrints, type PrintNeed, type Wish } from './usePrints'

type Take = Schemas['TakeOut']
type Step = Take['steps'][number]

const open = defineModel<boolean>({ required: true })
const props = defineProps<{ take: Take; order: Schemas['PrintOrder'] | null }>()
/** The steps of a planned print, the border its paper leaves around it, mm, and what was done in a sentence. */
const emit = defineEmits<{ plan: [steps: Step[], border: number, done: string] }>()
const notice = useNotice()

const wish = reactive<Wish>({
  paper: 'lustre',
  distance_cm: null,
  mode: 'fill',
  border_mm: 0,
  width: null,
  height: null,
  unit: 'cm',
})
const typed = reactive({ distance: '', border: '0', width: '', height: '' })
const value = (text: string) => {
  const told = Number(text.trim().replace(',', '.'))
  return text.trim() && told > 0 ? told : null
}
watch(typed, (now) => {
  Object.assign(wish, {
    distance_cm: value(now.distance),
    border_mm: value(now.border) ?? 0,
    width: value(now.width),
    height: value(now.height),
  })
})
// The size that was ordered is there to begin with.
watch(open, (now) => {
  if (!now || !props.order || typed.width) return
  Object.assign(typed, { width: String(props.order.width), height: String(props.order.height) })
  wish.unit = props.order.unit ?? 'cm'
})

const { data: prints, error } = usePrints(
  () => props.take.id,
  () => props.take.plan?.chain ?? '',
  () => ({ ...wish }),
  () => open.value && Boolean(props.take.plan),
)

const groups = { photo: 'Photographs', frame: 'Frames', 'ISO A': 'ISO A', 'ISO B': 'ISO B' } as const
const shown = computed(() =>
  Object.entries(groups).map(([group, title]) => ({
    title,
    needs: prints.value?.standard.filter((one) => one.size.group === group) ?? [],
  })),
)
const chosenName = ref<string | null>(null)
const chosen = computed(
  () => prints.value?.standard.find((one) => one.size.name === chosenName.value) ?? prints.value?.free ?? null,
)

const verdicts: PrintNeed['verdict'][] = ['as it stands', 'with ×2', 'with ×4', 'with ×8', 'beyond']
const rungs = verdicts.length - 1
const reach = (need: PrintNeed) => verdicts.indexOf(need.verdict)
const sizeText = (need: PrintNeed) => `${length(need.size.width)} × ${length(need.size.height)} ${need.size.unit}`
const short = (need: PrintNeed) => (need.size.name.includes('×') ? sizeText(need) : need.size.name)
const modes = [
  { value: 'fill' as const, title: 'Fill', what: 'The paper is covered: the picture is cropped to its shape' },
  { value: 'fit' as const, title: 'Fit', what: 'All of the picture is seen; paper may stay free at two sides' },
]

const besides = computed(() => {
  const framed = props.take.plan?.framed
  return chosen.value && framed ? besidesText(framed, insideBorder(chosen.value.size, wish.border_mm), wish.mode) : ''
})

const sharpen = ref(true)
const planning = ref(false)
async function plan(need: PrintNeed) {
  planning.value = true
  try {
    const finish = sharpen.value
      ? await answer(
          server.GET('/api/paper-sharpening', { params: { query: { paper: need.paper, ppi: Math.round(need.ppi) } } }),
        )
      : null
    const { steps } = props.take
    const own = finish && steps.at(-1)?.kind === 'sharpen' && !forPaper(steps.at(-1), finish)
    const done = [
      `Planned as ${sizeText(need)} at ${number(need.ppi, 0)} ppi`,
      ...(besides.value && wish.mode === 'fill' ? ['cropped to its shape'] : []),
      ...(finish ? [`sharpened for ${need.paper}${own ? ' after your own sharpening' : ''}`] : []),
    ]
    emit('plan', printSteps(props.take, need, wish.mode, wish.border_mm, finish), wish.border_mm, `${done.join(', ')}.`)
    open.value = false
  } catch (fault) {
    notice.fault(fault as Error)
  } finally {
    planning.value = false
  }
}
</script>

<template>
  <v-dialog v-model="open" max-width="1120" aria-label="Print planner">
    <v-card class="planner">
      <form class="wish" @submit.prevent>
        <h2>Print planner</h2>
        <p class="quiet small">
          Take {{ take.name }} has {{ take.plan ? pixelSize(take.plan.framed) : '' }} px inside its frame.
        </p>
        <v-select
          v-model="wish.paper"
          label="Paper"
          :items="prints?.papers.map((one) => ({ value: one.name, title: `${one.title} (${one.finest} ppi)` }))"
        />
        <v-text-field
          v-model="typed.distance"
          label="Seen from, cm"
          placeholder="each print's diagonal"
          persistent-placeholder
          inputmode="decimal"
        />
        <ChoiceRow label="Picture on the paper" :choices="modes" :chosen="wish.mode" @choose="wish.mode = $event" />
        <v-text-field v-model="typed.border" label="Border, mm" inputmode="decimal" />
        <fieldset>
          <legend class="small quiet">A size of your own</legend>
          <div class="own">
            <v-text-field
              v-model="typed.width"
              label="Width"
              inputmode="decimal"
              @update:model-value="chosenName = null"
            />
            <v-text-field
              v-model="typed.height"
              label="Height"
              inputmode="decimal"
              @update:model-value="chosenName = null"
            />
            <v-select v-model="wish.unit" label="Unit" :items="['cm', 'in', 'mm']" />
          </div>
        </fieldset>
        <p v-if="error" class="fault small" role="alert">{{ error.message }}</p>
      </form>
      <div class="sizes" aria-label="Sizes">
        <section v-for="group in shown" :key="group.title">
          <h3 class="small quiet">{{ group.title }}</h3>
          <button
            v-for="need in group.needs"
            :key="need.size.name"
            type="button"
            class="size"
            :aria-pressed="chosen === need"
            :title="`${need.verdict}: has ${number(need.has_ppi, 0)} of ${number(need.ppi, 0)} ppi`"
            @click="chosenName = need.size.name"
          >
            <span>{{ short(need) }}</span>
            <span class="quiet small">{{ number(need.has_ppi, 0) }} of {{ number(need.ppi, 0) }} ppi</span>
            <span class="ladder" aria-hidden="true"
              ><i v-for="step in rungs" :key="step" :class="{ on: step <= rungs - reach(need) }"
            /></span>
            <span class="verdict" :class="{ beyond: reach(need) === rungs }">{{ need.verdict }}</span>
          </button>
        </section>
      </div>
      <footer>
        <template v-if="chosen">
          <p aria-label="Chosen size">
            <strong>{{ sizeText(chosen) }}</strong> on {{ chosen.paper }}, seen from
            {{ number(chosen.distance_cm, 0) }} cm: good with {{ pixelSize(chosen.good_px) }} px ({{
              number(chosen.ppi, 0)
            }}
            ppi), enough with {{ pixelSize(chosen.required_px) }} px. The picture has
            {{ number(chosen.has_ppi, 0) }} ppi there{{
              chosen.factor > 8
                ? `: ×${number(chosen.factor)} would make it good, more than any engine gives; choose a larger distance`
                : chosen.factor > 1
                  ? `: ×${number(chosen.factor)} makes it good`
                  : ' and is good as it stands'
            }}.{{ besides && ` ${besides}.` }}
          </p>
          <label class="small"><input v-model="sharpen" type="checkbox" /> sharpen for the paper</label>
          <v-btn color="primary" variant="flat" :loading="planning" :disabled="chosen.factor > 8" @click="plan(chosen)"
            >Make this print</v-btn
          >
        </template>
        <p v-else class="quiet">Choose a size, or write one of your own.</p>
      </footer>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.planner {
  display: grid;
  grid-template: minmax(0, 1fr) auto / 280px minmax(0, 1fr);
  max-height: 88vh;
}
.wish {
  display: flex;
  flex-direction: column;
  gap: 12px;
  padding: 20px;
  border-right: 1px solid rgba(var(--v-theme-on-surface), 0.14);
  overflow-y: auto;
}
.wish > * {
  flex: none;
}
fieldset {
  border: 0;
}
.own {
  display: grid;
  grid-template-columns: 1fr 1fr 84px;
  gap: 6px;
  margin-top: 6px;
}
.sizes {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 6px 28px;
  align-content: start;
  padding: 18px 20px;
  overflow-y: auto;
}
h3 {
  margin-bottom: 2px;
  font-weight: 400;
}
.size {
  display: grid;
  grid-template-columns: 1fr auto 46px 86px;
  gap: 10px;
  align-items: center;
  width: 100%;
  padding: 2px 8px;
  text-align: left;
  border-radius: 3px;
  cursor: pointer;
}
.size:hover {
  background: rgba(var(--v-theme-on-surface), 0.08);
}
.size[aria-pressed='true'] {
  background: rgba(var(--v-theme-primary), 0.24);
}
/* All rungs when nothing has to be enlarged, none when it is beyond. */
.ladder {
  display: grid;
  grid-template-columns: repeat(4, 1fr);
  gap: 2px;
}
.ladder i {
  height: 9px;
  border: 1px solid rgba(var(--v-theme-on-surface), 0.4);
}
.ladder .on {
  background: rgb(var(--v-theme-primary));
  border-color: rgb(var(--v-theme-primary));
}
.verdict {
  font-size: 13px;
}
.beyond {
  color: rgba(var(--v-theme-on-surface), 0.7);
}
footer {
  grid-column: 1 / -1;
  display: flex;
  align-items: center;
  gap: 18px;
  padding: 12px 20px;
  border-top: 1px solid rgba(var(--v-theme-on-surface), 0.14);
}
footer p {
  flex: 1;
}
footer label {
  white-space: nowrap;
}
</style>
