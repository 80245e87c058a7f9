import { computed, watch, type Ref } from 'vue'

import { answer, server } from '../api/client'
import { useBrush, type Stroke } from '../masks/useBrush'
import { useNotice } from '../parts/useNotice'
import type { StepOf } from '../steps/kinds'
import { dismiss, elsewhere, patching, takenFrom, type Patch } from '../steps/patches'
import { useBlemishes } from '../steps/useBlemishes'
import { useDrawing } from '../steps/useDrawing'
import type { Step, Take } from '../takes/useTake'

/** What is done by hand for an open step that patches: places painted over, and where they take from. */
export function usePatchwork(
  take: Ref<Take | undefined>,
  openStep: Ref<number | null>,
  change: (place: number, changed: object, now?: boolean) => void,
  settle: () => Promise<void>,
) {
  const notice = useNotice()
  const search = useBlemishes()
  const { painting, part } = useBrush()
  const { drawing } = useDrawing()

  const isPatch = (step: Step | undefined): step is StepOf<'patch'> => step?.kind === 'patch'
  const step = computed(() => {
    const open = openStep.value === null ? undefined : take.value?.steps[openStep.value]
    return isPatch(open) ? open : null
  })
  const brushing = computed(() => Boolean(step.value?.on) && painting.value === openStep.value)
  /** The stroke of the patch that is looked at. */
  const shown = computed(() => {
    const one = patching.chosen === null ? undefined : step.value?.patches?.[patching.chosen]
    return one ? [one.stroke] : []
  })

  function toggle() {
    part.value = null
    painting.value = brushing.value ? null : openStep.value
  }
  /** A place that was painted over becomes a patch, from where it is most alike nearby. */
  async function add(stroke: Stroke) {
    const place = openStep.value!
    const painted = { ...stroke, erase: false, edges: false }
    patching.chosen = null
    const next: Patch = {
      stroke: painted,
      outline: patching.outline,
      way: patching.way,
      x: 0,
      y: 0,
      turn: 0,
      scale: 1,
      on: true,
    }
    // What is made of what lies around, or comes from another take, needs no other place.
    if (!elsewhere(next)) return change(place, { patches: [...(step.value?.patches ?? []), next] })
    try {
      await settle()
      const found = await answer(
        server.POST('/api/takes/{take_id}/steps/{index}/patch-source', {
          params: { path: { take_id: take.value!.id, index: place } },
          body: { stroke: painted },
        }),
      )
      const now = take.value?.steps[place]
      if (!isPatch(now)) return
      const patches = [...(now.patches ?? []), { ...next, x: found.x, y: found.y }]
      change(place, { patches })
      if (!found.alike) notice.say('Nothing near is alike; it takes from beside. Pick another place in its line.')
    } catch (fault) {
      notice.fault(fault as Error)
    }
  }
  /** Pick in the picture where a patch takes from. */
  function pick(patch: number) {
    patching.chosen = patch
    // One thing is in hand at a time.
    painting.value = null
    drawing.value = drawing.value ? null : { step: openStep.value!, what: 'patch' }
  }
  function picked(place: number, at: [number, number]) {
    const now = take.value?.steps[place]
    const patch = isPatch(now) && patching.chosen !== null ? now.patches?.[patching.chosen] : undefined
    if (isPatch(now) && patch) change(place, { patches: now.patches!.with(patching.chosen!, takenFrom(patch, at)) })
  }
  /** The patches of the open step, for what lies over the picture. */
  const all = computed(() => (step.value?.on ? (step.value.patches ?? []) : []))
  function setOne(patch: number, changed: Patch) {
    change(openStep.value!, { patches: all.value.with(patch, changed) })
  }
  /** What was looked for dust last. */
  let searched = { place: -1, take: '' }
  /** Look for dust in what the step is given, or stop looking. */
  async function find() {
    const place = openStep.value!
    if (search.share.value !== null) return search.stop()
    searched = { place, take: take.value!.id }
    try {
      // The server looks at the step as it was saved.
      await settle()
      await search.find(searched.take, place)
    } catch (fault) {
      notice.fault(fault as Error)
    }
  }
  watch(search.share, (share) => (patching.share = share))
  // What was found in one step is nothing to another.
  watch([openStep, () => take.value?.id], ([place, id]) => {
    // A take that is being fetched again is still the same.
    if (place === searched.place && (id === undefined || id === searched.take)) return
    search.stop()
    dismiss()
  })
  return { find, brushing, shown, toggle, add, pick, picked, all, setOne }
}
