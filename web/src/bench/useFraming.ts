import { useKeys } from '../parts/useKeys'
import { turned, type Frame } from '../steps/frame'
import type { Bench } from './useBench'

/** The frame as it is drawn and turned on the bench. */
export function useFraming({ take, openStep, change }: Bench) {
  function changeFrame(step: Frame, now = false) {
    if (take.value && openStep.value !== null) change(take.value.steps.with(openStep.value, step), now)
  }
  function turn(quarters: 1 | 3) {
    const place = take.value?.steps.findIndex((step) => step.kind === 'frame') ?? -1
    const plan = take.value?.plan
    if (!take.value || !plan || place < 0) return
    change(
      take.value.steps.with(place, turned(take.value.steps[place] as Frame, quarters, plan.canvas, plan.crop)),
      true,
    )
  }
  useKeys(() => [
    { key: 'r', shown: 'R', does: 'turn right', group: 'by hand', run: () => turn(1) },
    { key: 'shift+r', shown: 'Shift R', does: 'turn left', group: 'by hand', run: () => turn(3) },
  ])
  return { changeFrame }
}
