import { computed, reactive, ref, watch, type Ref } from 'vue'

import type { Take } from '../takes/useTake'

export type Comparing = 'one' | 'divider' | 'sides' | 'four'
/** A take's id, or the picture before anything was done to it. */
export type Shown = string
export type As = 'pixels' | 'clipping' | 'difference' | 'proof'

export const comparisons: { value: Comparing; title: string }[] = [
  { value: 'one', title: 'one' },
  { value: 'divider', title: 'divider' },
  { value: 'sides', title: 'two' },
  { value: 'four', title: 'four' },
]

/** What the panes of the bench show: how many there are, what stands beside the leading take, and as what that is seen. */
export function usePanes(takes: Ref<Take[]>, leadId: () => string | undefined) {
  const comparing = ref<Comparing>('one')
  /** The original, for as long as it is held. */
  const holding = ref(false)
  /** The leading take and the first of the others by turns. */
  const blinking = ref(false)
  /** What stands beside the leading take: in the second pane, left of the divider, under the difference. */
  const others = ref<Shown[]>(['original', 'original', 'original'])
  /** What is shown of results; differences are from the first of the others. */
  const as = ref<As>('pixels')
  const gain = ref(4)

  const choices = computed(() => [
    { id: 'original', name: 'original' },
    ...takes.value.filter((one) => one.plan && one.id !== leadId()).map(({ id, name }) => ({ id, name })),
  ])
  const second = computed(() => takes.value.find((one) => one.id === others.value[0])?.name ?? 'original')
  /** In four panes one original is enough. */
  const beside = computed(() =>
    comparing.value === 'four'
      ? others.value.filter((one, index) => others.value.indexOf(one) === index && one !== leadId())
      : others.value,
  )

  function compare(way: Comparing) {
    comparing.value = way
  }
  function compareNext() {
    const place = comparisons.findIndex((one) => one.value === comparing.value)
    compare(comparisons[(place + 1) % comparisons.length]!.value)
  }
  function put(shown: Shown, place = 0) {
    others.value = others.value.with(place, shown)
  }
  /** The next that can stand there. */
  function swap(place: number) {
    const now = choices.value.findIndex((one) => one.id === others.value[place])
    put(choices.value[(now + 1) % choices.value.length]!.id, place)
  }
  function hold(on: boolean) {
    holding.value = on
  }
  function blink() {
    blinking.value = !blinking.value
  }
  /** Shown like that, or, if it is already, plainly. */
  function showAs(what: As) {
    as.value = as.value === what ? 'pixels' : what
  }
  function amplify() {
    gain.value = gain.value >= 16 ? 2 : gain.value * 2
  }

  // Four panes are for takes: those that have not been picked yet are filled in.
  watch(comparing, (now) => {
    if (now !== 'four') return
    const free = choices.value
      .slice(1)
      .map((one) => one.id)
      .filter((id) => !others.value.includes(id))
    others.value = others.value.map((one, index) => (index > 0 && one === 'original' ? (free.shift() ?? one) : one))
  })

  return reactive({
    comparing,
    holding,
    blinking,
    others,
    as,
    gain,
    choices,
    second,
    beside,
    compare,
    compareNext,
    put,
    swap,
    hold,
    blink,
    showAs,
    amplify,
  })
}
export type Panes = ReturnType<typeof usePanes>
