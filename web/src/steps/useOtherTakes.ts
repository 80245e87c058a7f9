import { computed, type MaybeRefOrGetter, toValue } from 'vue'

import type { Step } from '../takes/queries'
import { useTakes } from '../takes/useTakes'
import { kindOf } from './kinds'

/** The other takes of a picture that a step may take from, and the steps by which one of them is made. */
export function useOtherTakes(picture: MaybeRefOrGetter<string>, take: MaybeRefOrGetter<string>) {
  const { takes } = useTakes(() => toValue(picture))
  const others = computed(() =>
    takes.value
      .filter((one) => one.id !== toValue(take) && !one.outside)
      .map((one) => ({ value: one.name, title: `take ${one.name}, as it is now` })),
  )
  /** What frames the picture is left out: the step works in a frame that is there already. */
  function stepsOf<Given extends Step>(name: string): Given[] {
    const steps: Step[] = takes.value.find((one) => one.name === name)?.steps ?? []
    return steps.filter((one): one is Given => kindOf(one.kind).belongs !== 'frame')
  }
  return { others, stepsOf }
}
