import { computed, inject, nextTick, provide, reactive, ref, shallowRef, watch, type InjectionKey } from 'vue'
import { useRouter } from 'vue-router'

import { boardLeft, leaveBoard } from '../board/boardSize'
import { useSpots, type Spot } from '../board/useSpots'
import { unfinished, useDeliveries } from '../deliveries/useDeliveries'
import { useJob } from '../jobs/useJobs'
import { until } from '../parts/until'
import { usePicture, usePictures } from '../pictures/usePictures'
import { printPpi } from '../prints/ppi'
import { useClientNotes } from '../showings/useShowings'
import { provideLenders } from '../steps/useLenders'
import { useTake, type Step } from '../takes/useTake'
import { useTakes } from '../takes/useTakes'
import { useHandwork } from './useHandwork'
import { useNewTakes } from './useNewTakes'
import { usePanes } from './usePanes'

export interface BenchAddress {
  jobId: string
  pictureId: string
  takeId?: string
}

/** What the large view can be asked for; there is none while something is framed. */
export interface ViewHandle {
  fit: () => void
  zoomTo: (scale: number) => void
  stepZoom: (way: 1 | -1) => void
  lookAt: (place: { x: number; y: number }, scale: number) => void
}

/** Everything the parts of the bench share: what lies on it, and what can be done with that. */
function benchOf(address: BenchAddress) {
  const router = useRouter()
  const { data: job } = useJob(() => address.jobId)
  const { data: picture, error: missing } = usePicture(() => address.pictureId)
  const { data: pictures } = usePictures(() => address.jobId)
  const { data: deliveries } = useDeliveries(() => address.jobId)
  const { take, error: noTake, edit, settle, unsaved, undo, redo } = useTake(() => address.takeId)
  const list = useTakes(() => address.pictureId)
  const spots = useSpots(() => address.pictureId)
  const { notes: clientNotes } = useClientNotes(() => address.pictureId)

  const takes = computed(() => list.takes.value)
  /** The takes as the bench shows them: the one being changed as it is now, not as it was last saved. */
  const shownTakes = computed(() => takes.value.map((one) => (one.id === take.value?.id ? take.value : one)))
  const panes = usePanes(takes, () => address.takeId)
  const fault = computed(() => missing.value ?? noTake.value)

  /** The step that is open on the line, by its place. */
  const openStep = ref<number | null>(null)
  const view = shallowRef<ViewHandle | null>(null)
  /** Screen pixels per pixel of the result. */
  const zoom = ref(1)
  // The board comes back as it was for the same picture; another one is not hidden by it.
  const boardSize = ref(boardLeft(address.pictureId))
  watch(boardSize, (now) => leaveBoard(address.pictureId, now))
  watch(
    () => address.pictureId,
    () => (boardSize.value = 'folded'),
  )
  /** What is open beside or over the picture. */
  const open = reactive({
    reading: false,
    rehearsal: false,
    histogram: false,
    laid: false,
    client: false,
    fidelity: false,
    sheet: false,
    delivery: false,
    printPlanner: false,
    savingCard: false,
    usingCard: false,
    ruler: false,
    page: false,
    strip: false,
  })
  // What opens on the line or beside the picture is not to open behind the board.
  watch([openStep, () => open.reading || open.histogram || open.fidelity], ([step, card]) => {
    if ((step !== null || card) && boardSize.value === 'full') boardSize.value = 'open'
  })

  function show(id: string, replace = false) {
    const { jobId, pictureId } = address
    const to = { name: 'bench', params: { jobId, pictureId, takeId: id } }
    void (replace ? router.replace(to) : router.push(to))
  }
  const moving = ref(false)
  function change(steps: Step[], now = false) {
    moving.value = !now
    edit(steps, { now })
  }
  const { begin, suggest, rehearsed, camera } = useNewTakes(() => address.pictureId, settle, list.refresh, show)
  const hands = useHandwork(take, openStep, (steps, now = true) => change(steps, now), settle)

  // Without a take in the address, the picture's first one is shown.
  watch(
    [picture, () => address.takeId],
    () => {
      if (!picture.value || address.takeId) return
      const first = picture.value.takes[0]
      if (first) show(first.id, true)
      else begin.mutate([])
    },
    { immediate: true },
  )
  // A take that is gone is not shown any more.
  watch(takes, (now) => {
    if (now.length && address.takeId && !now.some((one) => one.id === address.takeId)) show(now[0]!.id, true)
  })

  /** Bring a check spot of a take into the large view. */
  async function look(takeId: string, spot: Spot, scale: number) {
    if (boardSize.value === 'full') boardSize.value = 'open'
    openStep.value = null
    if (takeId !== address.takeId) show(takeId)
    // The large view comes back, and takes the take up, first.
    await nextTick()
    const there = await until(
      () => take.value?.id === takeId,
      () => fault.value !== null,
    )
    await nextTick()
    const place = spot.places[takeId]
    if (there && place) view.value?.lookAt(place, scale)
  }

  return {
    address,
    job,
    picture,
    pictures,
    take,
    list,
    takes,
    shownTakes,
    spots,
    clientNotes,
    panes,
    moving,
    hands,
    fault,
    openStep,
    view,
    zoom,
    boardSize,
    open,
    show,
    change,
    settle,
    unsaved,
    undo,
    redo,
    begin,
    suggest,
    rehearsed,
    camera,
    look,
    /** The frame that is open on the line, to be drawn. */
    framing: computed(() => {
      const step = openStep.value === null ? undefined : take.value?.steps[openStep.value]
      return step?.kind === 'frame' ? step : null
    }),
    /** Whether the take has steps that can be printed and delivered. */
    deliverable: computed(() => Boolean(take.value?.plan && !take.value.outside)),
    running: computed(() => deliveries.value?.filter(unfinished).length ?? 0),
    ppi: computed(() => (take.value ? printPpi(take.value, job.value?.order ?? null) : 300)),
  }
}
export type Bench = ReturnType<typeof benchOf>

const key: InjectionKey<Bench> = Symbol('bench')

export function provideBench(address: BenchAddress): Bench {
  const bench = benchOf(address)
  provide(key, bench)
  provideLenders(bench.pictures)
  return bench
}

/** The bench a part lies on. */
export function useBench(): Bench {
  const bench = inject(key)
  if (!bench) throw new Error('This part belongs on a bench.')
  return bench
}
