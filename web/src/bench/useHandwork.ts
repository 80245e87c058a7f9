import { computed, watch, type Ref } from 'vue'

import { answer, server } from '../api/client'
import { resized, useBrush, type Stroke } from '../masks/useBrush'
import { useKeys } from '../parts/useKeys'
import { useNotice } from '../parts/useNotice'
import { blurText } from '../steps/blur'
import { kindOf } from '../steps/kinds'
import { faceInBox } from '../steps/faces'
import { useDrawing, type Drawn } from '../steps/useDrawing'
import type { Step, Take } from '../takes/useTake'

/** What hands do on the picture itself for the step that is open: paint where it works, draw what it undoes. */
export function useHandwork(
  take: Ref<Take | undefined>,
  openStep: Ref<number | null>,
  change: (steps: Step[]) => void,
  settle: () => Promise<void>,
) {
  const notice = useNotice()
  const { brush, painting, overlay, peeking } = useBrush()
  const { drawing, reading } = useDrawing()

  const open = computed(() => (openStep.value === null ? undefined : take.value?.steps[openStep.value]))
  /** The open step's mask while the brush is on it. */
  const mask = computed(() => {
    const step = painting.value === openStep.value ? open.value : undefined
    return step?.on && kindOf(step.kind).takes_mask ? (step.mask ?? null) : null
  })
  /** The step whose mask is shown, among those that are on. */
  const maskOf = computed(() => {
    if (!open.value?.on || !((mask.value && overlay.value) || peeking.value)) return null
    return take.value!.steps.slice(0, openStep.value!).filter((step) => step.on).length
  })

  function replace(place: number, changed: object) {
    change(take.value!.steps.with(place, { ...take.value!.steps[place], ...changed } as Step))
  }
  function addStroke(stroke: Stroke) {
    if (mask.value)
      replace(openStep.value!, { mask: { ...mask.value, strokes: [...(mask.value.strokes ?? []), stroke] } })
  }
  /** Take the brush up for the open step, or put it down. */
  function pickBrush() {
    const step = open.value
    if (!step || !kindOf(step.kind).takes_mask) return
    if (!step.mask) replace(openStep.value!, { mask: { strokes: [], inverted: false } })
    painting.value = painting.value === openStep.value ? null : openStep.value
  }
  /** The box that was drawn becomes a face of the step. */
  function addFace(place: number, { start, end }: Drawn) {
    const step = take.value!.steps[place]
    if (step?.kind === 'faces') replace(place, { faces: [...(step.faces ?? []), faceInBox(start, end)] })
  }
  /** What was drawn tells the open step: its blur, or a face. */
  async function drawn(what: Drawn) {
    const place = drawing.value?.step
    drawing.value = null
    if (place === undefined || !take.value) return
    if (what.what === 'face') return addFace(place, what)
    const told = { ...what, what: what.what }
    reading.value = what.what === 'area'
    try {
      await settle()
      const found = await answer(
        server.POST('/api/takes/{take_id}/steps/{index}/blur', {
          params: { path: { take_id: take.value.id, index: place } },
          body: told,
        }),
      )
      if (take.value.steps[place]?.kind !== 'deblur') return
      if (found.blur) replace(place, { blur: found.blur })
      const read = found.blur && `Read ${what.what === 'area' ? 'there' : 'along the line'}: ${blurText(found.blur)}`
      if (!read) notice.say('No blur was found there: it is as sharp as its pixels. The settings stay as they are.')
      else if (found.confidence < 0.6) notice.say(`${read}. It is little more than a guess; move the size and compare.`)
      else notice.say(`${read}. The step is set to it.`)
    } catch (fault) {
      notice.fault(fault as Error)
    } finally {
      reading.value = false
    }
  }
  /** Nothing is in hand any more. */
  function putDown() {
    painting.value = null
    drawing.value = null
    peeking.value = false
  }
  // Another step is opened, or another take.
  watch([openStep, () => take.value?.id], putDown)

  const resize = (way: 1 | -1) => () => (brush.size = resized(brush.size, way))
  useKeys(() => [
    { key: 'q', shown: 'Q', does: 'paint where the open step works', group: 'by hand', run: pickBrush },
    { key: ',', shown: ', ;', does: 'smaller or larger brush', group: 'by hand', run: resize(-1) },
    { key: ';', shown: ', ;', does: 'smaller or larger brush', group: 'by hand', run: resize(1) },
  ])

  return { mask, maskOf, drawing, addStroke, drawn }
}
