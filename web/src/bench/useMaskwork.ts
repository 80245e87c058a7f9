import { computed, type Ref } from 'vue'

import { answer, server, type Schemas } from '../api/client'
import { hinted, newPart, type Kind, type Mask, type Part, type PartOf } from '../masks/parts'
import { useSearch } from '../masks/useSearch'
import { resized, useBrush, type Stroke } from '../masks/useBrush'
import { useKeys } from '../parts/useKeys'
import { useNotice } from '../parts/useNotice'
import { kindOf } from '../steps/kinds'
import { useDrawing, type Drawn } from '../steps/useDrawing'
import type { Take } from '../takes/useTake'

/** What is done by hand to the mask of the open step: parts put in, painted, pulled, picked and looked for. */
export function useMaskwork(
  take: Ref<Take | undefined>,
  openStep: Ref<number | null>,
  change: (place: number, changed: object, now?: boolean) => void,
  settle: () => Promise<void>,
) {
  const notice = useNotice()
  const { brush, painting, part: openPart, overlay, peeking } = useBrush()
  const { drawing } = useDrawing()

  const open = computed(() => (openStep.value === null ? undefined : take.value?.steps[openStep.value]))
  const mask = computed<Mask | null>(() => {
    const step = open.value
    return step?.on && kindOf(step.kind).takes_mask ? (step.mask ?? null) : null
  })
  /** The part of the open step's mask whose settings are open. */
  const part = computed(() => (openPart.value === null ? null : (mask.value?.parts[openPart.value] ?? null)))
  /** Whether the brush is in hand, on strokes of a part or on those that say what is to be found. */
  const brushing = computed(
    () => painting.value === openStep.value && (part.value?.by === 'brush' || hinted(part.value)),
  )
  /** The strokes that say what the open part is. */
  const hints = computed(() => (hinted(part.value) ? (part.value.hints ?? []) : []))
  /** The gradient that can be pulled in the picture. */
  const gradient = computed(() => (part.value?.by === 'linear' || part.value?.by === 'radial' ? part.value : null))
  /** The step whose mask is shown, among those that are on. */
  const maskOf = computed(() => {
    if (!open.value?.on || !((part.value && overlay.value) || peeking.value)) return null
    return take.value!.steps.slice(0, openStep.value!).filter((step) => step.on).length
  })

  function setParts(parts: Part[], now = true) {
    change(openStep.value!, { mask: { ...(mask.value ?? { inverted: false }), parts } }, now)
  }
  function setPart(changed: Part, now = true, place = openPart.value!) {
    setParts(mask.value!.parts.with(place, changed), now)
  }
  function addStroke(stroke: Stroke) {
    if (part.value?.by === 'brush') setPart({ ...part.value, strokes: [...part.value.strokes, stroke] })
    else if (hinted(part.value)) findAnew({ hints: [...(part.value.hints ?? []), { ...stroke, edges: false }] })
  }
  /** Look for the open part anew with something about it changed; what was found before stays until there is something new. */
  function findAnew(changed: Partial<PartOf<'found'>>, quiet = 0) {
    if (part.value?.by !== 'found') return
    setPart({ ...part.value, ...changed }, !quiet)
    search.stop()
    clearTimeout(anew)
    anew = setTimeout(() => finding.value ?? find(), quiet)
  }
  /** Put a part behind those there are, and open it. */
  function addPart(kind: Kind, found: Schemas['FaceReading'][] = []) {
    const parts = mask.value?.parts ?? []
    const made = newPart(kind, found)
    openPart.value = parts.length
    painting.value = kind === 'brush' ? openStep.value : null
    setParts([...parts, made])
    if (made.by === 'found') void find()
    if (made.by === 'colours') pick()
  }
  /** Take the brush up for the open step, or put it down. */
  function pickBrush() {
    const step = open.value
    if (!step?.on || !kindOf(step.kind).takes_mask) return
    if (brushing.value) {
      painting.value = openPart.value = null
      return
    }
    const last = (mask.value?.parts ?? []).findLastIndex(({ by }) => by === 'brush')
    if (last < 0) return addPart('brush')
    openPart.value = last
    painting.value = openStep.value
  }
  /** Pick a colour, or draw a box, for the open part. */
  function pick() {
    const what = part.value?.by === 'found' ? 'subject' : 'range'
    drawing.value = drawing.value ? null : { step: openStep.value!, what }
  }
  async function pickedColour({ start: [x, y] }: Drawn) {
    const place = openPart.value
    try {
      await settle()
      const found = await answer(
        server.GET('/api/takes/{take_id}/steps/{index}/colour', {
          params: { path: { take_id: take.value!.id, index: openStep.value! }, query: { x, y, original: true } },
        }),
      )
      if (part.value?.by !== 'colours' || openPart.value !== place) return
      const [light, a, b] = found.oklab as [number, number, number]
      setPart({ ...part.value, colours: [...part.value.colours, [light, a, b]] })
    } catch (fault) {
      notice.fault(fault as Error)
    }
  }
  function boxed({ start, end }: Drawn) {
    if (part.value?.by !== 'found') return
    const { width, height } = take.value!.plan!.source
    const share = (value: number, side: number) => Math.round(Math.max(0, Math.min(1, value / side)) * 1e4) / 1e4
    const [left, right] = [Math.min(start[0], end[0]), Math.max(start[0], end[0])]
    const [top, bottom] = [Math.min(start[1], end[1]), Math.max(start[1], end[1])]
    const box: [number, number, number, number] = [
      share(left, width),
      share(top, height),
      share(right, width),
      share(bottom, height),
    ]
    setPart({ ...part.value, box, plane: '' })
    void find()
  }
  const search = useSearch(() => take.value?.picture_id ?? '')
  const finding = search.share
  let anew: ReturnType<typeof setTimeout> | undefined
  /** Look in the whole picture for what the open part is about; asked again meanwhile, stop looking. */
  async function find() {
    if (finding.value !== null) return search.stop()
    const place = openPart.value
    const sought = part.value
    if (sought?.by !== 'found' || !take.value) return
    try {
      const plane = await search.look(sought)
      const now = place === null ? undefined : mask.value?.parts[place]
      // Meanwhile something else may have been opened, or asked for.
      if (plane && now?.by === 'found' && asked(now) === asked(sought)) setPart({ ...now, plane }, true, place!)
    } catch (fault) {
      notice.fault(fault as Error)
    }
  }
  /** Take the brush for strokes that say what the open part is, or put it down. */
  function pickHints() {
    if (!hinted(part.value)) return
    painting.value = brushing.value ? null : openStep.value
    const { width, height } = take.value!.plan!.source
    if (painting.value !== null) brush.size = Math.max(3, Math.round(hintShare * Math.max(width, height)))
  }
  function putDown() {
    search.stop()
    clearTimeout(anew)
    painting.value = openPart.value = null
    peeking.value = false
  }

  const resize = (way: 1 | -1) => () => (brush.size = resized(brush.size, way))
  useKeys(() => [
    { key: 'q', shown: 'Q', does: 'paint where the open step works', group: 'by hand', run: pickBrush },
    { key: ',', shown: ', ;', does: 'smaller or larger brush', group: 'by hand', run: resize(-1) },
    { key: ';', shown: ', ;', does: 'smaller or larger brush', group: 'by hand', run: resize(1) },
  ])
  return {
    mask,
    part,
    brushing,
    hints,
    gradient,
    maskOf,
    finding,
    setPart,
    addStroke,
    addPart,
    pickBrush,
    pick,
    pickedColour,
    boxed,
    find,
    findAnew,
    pickHints,
    putDown,
  }
}

/** How thick a stroke is that says what is meant, of the long side: a line drawn inside it, not a surface. */
const hintShare = 0.02

/** What a part that is found goes by. */
const asked = ({ what, box, hints, hair }: PartOf<'found'>) => JSON.stringify([what, box, hints, hair])
