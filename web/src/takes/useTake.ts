import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, onScopeDispose, ref, toValue, watch, type MaybeRefOrGetter } from 'vue'

import { answer, server } from '../api/client'
import { useNotice } from '../parts/useNotice'
import { takeQueries, type Step, type Take } from './queries'
import { SaveQueue } from './saveQueue'

export type { Step, Take } from './queries'

const settleMilliseconds = 220

/**
 * One take: its steps, changed here at once and saved as they change, and its undo history.
 *
 * Saves run one after another; an answer is shown only if nothing has been changed since it was sent.
 */
export function useTake(takeId: MaybeRefOrGetter<string | undefined>) {
  const client = useQueryClient()
  const notice = useNotice()
  const query = computed(() => takeQueries.one(toValue(takeId) ?? ''))
  const { data: take, error } = useQuery(computed(() => ({ ...query.value, enabled: Boolean(toValue(takeId)) })))
  const unsaved = ref(false)

  const queue = new SaveQueue<Step[], Take>(
    {
      send: (id, steps) =>
        answer(server.PUT('/api/takes/{take_id}', { params: { path: { take_id: id } }, body: { steps } })),
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
    const known = take.value
    if (!known) return
    client.setQueryData(query.value.queryKey, { ...known, steps })
    queue.change(known.id, steps, options.now)
  }

  /** An answer of the server: kept, and whatever shows several takes is brought up to it. */
  function know(answer: Take) {
    client.setQueryData(takeQueries.one(answer.id).queryKey, answer)
    client.setQueryData(takeQueries.all(answer.picture_id).queryKey, (all) =>
      all?.map((one) => (one.id === answer.id ? answer : one)),
    )
    void client.invalidateQueries({ queryKey: ['spots', answer.picture_id] })
  }

  const moving = useMutation({
    mutationFn: async (way: 'undo' | 'redo') => {
      await queue.settle()
      const params = { path: { take_id: toValue(takeId)! } }
      return answer(
        way === 'undo'
          ? server.POST('/api/takes/{take_id}/undo', { params })
          : server.POST('/api/takes/{take_id}/redo', { params }),
      )
    },
    onSuccess: know,
    onError: notice.fault,
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
