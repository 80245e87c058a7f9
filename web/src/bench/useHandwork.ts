import { computed, watch, type Ref } from 'vue'

import { answer, server } from '../api/client'
import type { Stroke } from '../masks/useBrush'
import { useNotice } from '../parts/useNotice'
import { blurText } from '../steps/blur'
import { faceInBox } from '../steps/faces'
import { anchorAt } from '../steps/hues'
import { patching } from '../steps/patches'
import { useDrawing, type Drawn } from '../steps/useDrawing'
import type { Step, Take } from '../takes/useTake'
import { useMarks } from '../viewer/useMarks'
import { useMaskwork } from './useMaskwork'
import { usePatchwork } from './usePatchwork'

/** What hands do on the picture itself for the step that is open: paint where it works, draw what it undoes. */
export function useHandwork(
  take: Ref<Take | undefined>,
  openStep: Ref<number | null>,
  change: (steps: Step[], now?: boolean) => void,
  settle: () => Promise<void>,
) {
  const notice = useNotice()
  const { drawing, reading } = useDrawing()
  const { clipped } = useMarks()

  function replace(place: number, changed: object, now = true) {
    change(take.value!.steps.with(place, { ...take.value!.steps[place], ...changed } as Step), now)
  }
  const masks = useMaskwork(take, openStep, replace, settle)
  const patches = usePatchwork(take, openStep, replace, settle)
  const painting = computed(() => masks.brushing.value || patches.brushing.value)
  /** Strokes that were made and do not show by themselves. */
  const made = computed(() => (patches.brushing.value ? patches.shown.value : masks.hints.value))
  function addStroke(stroke: Stroke) {
    if (patches.brushing.value) void patches.add(stroke)
    else masks.addStroke(stroke)
  }
  /** The box that was drawn becomes a face of the step. */
  function addFace(place: number, { start, end }: Drawn) {
    const step = take.value!.steps[place]
    if (step?.kind === 'faces') replace(place, { faces: [...(step.faces ?? []), faceInBox(start, end)] })
  }
  /** Ask the server something of a step as it stands; faults are told. */
  async function asked<Answer>(place: number, ask: (path: { take_id: string; index: number }) => Promise<Answer>) {
    try {
      await settle()
      return await ask({ take_id: take.value!.id, index: place })
    } catch (fault) {
      notice.fault(fault as Error)
      return null
    }
  }
  /** The picture sets a step: all of it, or a place that should be grey. */
  async function start(place: number, at?: Drawn['start']) {
    const body = { place: at ? { x: at[0], y: at[1] } : null }
    const kind = take.value?.steps[place]?.kind
    const found = await asked(place, (path) =>
      answer(server.POST('/api/takes/{take_id}/steps/{index}/start', { params: { path }, body })),
    )
    if (!found || take.value?.steps[place]?.kind !== kind) return
    replace(place, found.step)
    notice.say(`Set from the picture: ${found.reasons.join('; ')}.`)
  }
  /** A colour that was picked becomes one of the hues of the step. */
  async function addHue(place: number, [x, y]: Drawn['start']) {
    const found = await asked(place, (path) =>
      answer(server.GET('/api/takes/{take_id}/steps/{index}/colour', { params: { path, query: { x, y } } })),
    )
    const step = take.value?.steps[place]
    if (!found || step?.kind !== 'colour') return
    const [, a, b] = found.oklab as [number, number, number]
    if (Math.hypot(a, b) < 0.01) notice.say('That place is grey: it has no hue. Pick a purer one.')
    else replace(place, { hues: [...(step.hues ?? []), anchorAt(found.hue)] })
  }
  /** What was drawn tells the open step: its blur, a face, a colour. */
  async function drawn(what: Drawn) {
    const place = drawing.value?.step
    drawing.value = null
    if (place === undefined || !take.value) return
    switch (what.what) {
      case 'face':
        return addFace(place, what)
      case 'grey':
        return start(place, what.start)
      case 'hue':
        return addHue(place, what.start)
      case 'range':
        return masks.pickedColour(what)
      case 'patch':
        return patches.picked(place, what.start)
      case 'subject':
        return masks.boxed(what)
      default:
        return readBlur(place, { ...what, what: what.what })
    }
  }
  async function readBlur(place: number, told: Drawn & { what: 'line' | 'area' }) {
    reading.value = told.what === 'area'
    try {
      await settle()
      const found = await answer(
        server.POST('/api/takes/{take_id}/steps/{index}/blur', {
          params: { path: { take_id: take.value!.id, index: place } },
          body: told,
        }),
      )
      if (take.value?.steps[place]?.kind !== 'deblur') return
      if (found.blur) replace(place, { blur: found.blur })
      const read = found.blur && `Read ${told.what === 'area' ? 'there' : 'along the line'}: ${blurText(found.blur)}`
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
    masks.putDown()
    drawing.value = patching.chosen = null
    clipped.value = false
  }
  // Another step is opened, or another take.
  watch([openStep, () => take.value?.id], putDown)

  return { masks, patches, painting, made, addStroke, drawing, drawn, start }
}
