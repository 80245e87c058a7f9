import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, onScopeDispose, ref, toValue, watch, type MaybeRefOrGetter } from 'vue'

import { answer, server } from '../api/client'
import { useNotice } from '../parts/useNotice'
import { takeQueries, type Step, type Take } from './queries'
import { SaveQueue } from './saveQueue'

export type { Step, Take } from './queries'

const settleMilliseconds = 220
/** How old what a list of takes told may be, to be shown without asking again. */
const freshMilliseconds = 5000

/** What steps were found to make of a take's picture, for those that come back: switched on again, moved back. */
const known = new Map<string, Take['plan']>()
/** Steps that are off make nothing of a picture. */
const nameOf = (id: string, steps: Step[]) => id + JSON.stringify(steps.filter((step) => step.on))
/** The states of takes that were shown, for undo and redo: what they lead to is seen before the server has answered. */
const states = new Map<string, Take>()
const stateOf = (id: string, number: number) => `${id} ${number}`

/**
 * One take: its steps, changed here at once and saved as they change, and its undo history.
 *
 * Saves run one after another; an answer is shown only if nothing has been changed since it was sent.
 */
export function useTake(takeId: MaybeRefOrGetter<string | undefined>) {
  const client = useQueryClient()
  const notice = useNotice()
  const query = computed(() => takeQueries.one(toValue(takeId) ?? ''))
  const { data: take, error } = useQuery(
    computed(() => {
      const id = toValue(takeId)
      return { ...query.value, enabled: Boolean(id), initialData: () => (id ? listed(id) : undefined) }
    }),
  )
  const unsaved = ref(false)

  const queue = new SaveQueue<Step[], Take>(
    {
      send: async (id, steps) => {
        const saved = await answer(
          server.PUT('/api/takes/{take_id}', { params: { path: { take_id: id } }, body: { steps } }),
        )
        known.set(nameOf(id, steps), saved.plan)
        return saved
      },
      saved: know,
      refused: (id, fault, latest) => {
        notice.fault(fault as Error)
        // What was refused is not kept on screen as if it were saved.
        if (latest) void client.invalidateQueries({ queryKey: takeQueries.one(id).queryKey })
      },
      unsaved: (now) => (unsaved.value = now),
    },
    settleMilliseconds,
  )

  /** Show these steps and save them soon; `now` skips the short wait for more changes. */
  function edit(steps: Step[], options: { now?: boolean } = {}) {
    const before = take.value
    if (!before) return
    if (!unsaved.value) known.set(nameOf(before.id, before.steps), before.plan)
    const plan = known.get(nameOf(before.id, steps)) ?? before.plan
    client.setQueryData(query.value.queryKey, { ...before, steps, plan })
    queue.change(before.id, steps, options.now)
  }

  /** The take as a list of takes has just told it. */
  function listed(id: string): Take | undefined {
    const lists = client.getQueryCache().findAll({ queryKey: ['takes', 'of'] })
    const fresh = lists.filter((list) => Date.now() - list.state.dataUpdatedAt < freshMilliseconds)
    return fresh.flatMap((list) => (list.state.data as Take[] | undefined) ?? []).find((one) => one.id === id)
  }

  /** An answer of the server: kept, and whatever shows several takes is brought up to it. */
  function know(answer: Take) {
    states.set(stateOf(answer.id, answer.state), answer)
    client.setQueryData(takeQueries.one(answer.id).queryKey, answer)
    client.setQueryData(takeQueries.all(answer.picture_id).queryKey, (all) =>
      all?.map((one) => (one.id === answer.id ? answer : one)),
    )
    // Where they lie in a take changes with its frame; where there are none, nothing does.
    const queryKey = ['spots', answer.picture_id]
    if (client.getQueryData<unknown[]>(queryKey)?.length !== 0) void client.invalidateQueries({ queryKey })
  }

  const movingKey = ['takes', 'moving']
  const moving = useMutation({
    mutationKey: movingKey,
    scope: { id: 'takes moving' },
    onMutate: (way: 'undo' | 'redo') => {
      const before = take.value
      if (!before || unsaved.value || !(way === 'undo' ? before.can_undo : before.can_redo)) return
      states.set(stateOf(before.id, before.state), before)
      const there = states.get(stateOf(before.id, before.state + (way === 'undo' ? -1 : 1)))
      if (!there) return
      const { steps, plan, problem, state } = there
      const ends = way === 'undo' ? { can_undo: state > 1, can_redo: true } : { can_undo: true }
      client.setQueryData(query.value.queryKey, { ...before, ...ends, steps, plan, problem, state })
    },
    mutationFn: async (way: 'undo' | 'redo') => {
      await queue.settle()
      const params = { path: { take_id: toValue(takeId)! } }
      return answer(
        way === 'undo'
          ? server.POST('/api/takes/{take_id}/undo', { params })
          : server.POST('/api/takes/{take_id}/redo', { params }),
      )
    },
    onSuccess: (answer) => {
      // What is on its way has been shown already.
      if (client.isMutating({ mutationKey: movingKey }) === 1) know(answer)
    },
    onError: (fault: Error) => {
      notice.fault(fault)
      void client.invalidateQueries({ queryKey: query.value.queryKey })
    },
  })

  const save = () => queue.save()
  // Another take is looked at: what was changed in this one is saved first.
  watch(() => toValue(takeId), save, { flush: 'sync' })
  window.addEventListener('pagehide', save)
  onScopeDispose(() => {
    save()
    window.removeEventListener('pagehide', save)
  })

  const settle = () => queue.settle()
  return { take, error, edit, settle, unsaved, undo: () => moving.mutate('undo'), redo: () => moving.mutate('redo') }
}
