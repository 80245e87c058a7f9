import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, onScopeDispose, ref, toValue, watch, type MaybeRefOrGetter } from 'vue'

import { api, type Schemas } from '../api/client'
import { useNotice } from '../shell/useNotice'

export type Take = Schemas['TakeOut']
export type Step = Take['steps'][number]

const settleMilliseconds = 220

/**
 * One take: its steps, changed here at once and saved as they change, and its undo history.
 *
 * Saves run one after another; an answer is shown only if nothing has been changed since it was sent.
 */
export function useTake(takeId: MaybeRefOrGetter<string | undefined>) {
  const client = useQueryClient()
  const notice = useNotice()
  const key = computed(() => ['takes', toValue(takeId)])
  const { data: take, error } = useQuery({
    queryKey: key,
    queryFn: ({ signal }) => api.get<Take>(`/takes/${toValue(takeId)}`, signal),
    enabled: computed(() => Boolean(toValue(takeId))),
    staleTime: Infinity,
  })

  let waiting: { id: string; steps: Step[] } | null = null
  /** Counts what has been changed here; an answer to anything but the latest change would take later ones back. */
  let changes = 0
  let timer: ReturnType<typeof setTimeout> | undefined
  let chain: Promise<void> = Promise.resolve()
  const unsaved = ref(false)

  /** Show these steps and save them soon; `at once` skips the short wait for more changes. */
  function edit(steps: Step[], options: { now?: boolean } = {}) {
    const known = take.value
    if (!known) return
    client.setQueryData<Take>(key.value, { ...known, steps })
    waiting = { id: known.id, steps }
    changes += 1
    unsaved.value = true
    clearTimeout(timer)
    if (options.now) save()
    else timer = setTimeout(save, settleMilliseconds)
  }

  function save() {
    clearTimeout(timer)
    const sending = waiting
    waiting = null
    if (!sending) return
    const sent = changes
    chain = chain.then(async () => {
      try {
        const answer = await api.put<Take>(`/takes/${sending.id}`, { steps: sending.steps })
        if (changes === sent) know(answer)
      } catch (fault) {
        notice.fault(fault)
        // What was refused is not kept on screen as if it were saved.
        if (changes === sent) await client.invalidateQueries({ queryKey: ['takes', sending.id] })
      } finally {
        if (changes === sent) unsaved.value = false
      }
    })
  }

  /** An answer of the server: kept, and whatever shows several takes is brought up to it. */
  function know(answer: Take) {
    client.setQueryData(['takes', answer.id], answer)
    client.setQueryData<Take[]>(['takes', 'of', answer.picture_id], (all) => all?.map((one) => (one.id === answer.id ? answer : one)))
    void client.invalidateQueries({ queryKey: ['spots', answer.picture_id] })
  }

  /** Everything changed so far is saved once this resolves. */
  async function settle() {
    save()
    await chain
  }

  const moving = useMutation({
    mutationFn: async (way: 'undo' | 'redo') => {
      await settle()
      return api.post<Take>(`/takes/${toValue(takeId)}/${way}`)
    },
    onSuccess: know,
    onError: notice.fault,
  })

  // Another take is looked at: what was changed in this one is saved first.
  watch(() => toValue(takeId), save, { flush: 'sync' })
  const leaving = () => save()
  window.addEventListener('pagehide', leaving)
  onScopeDispose(() => {
    save()
    window.removeEventListener('pagehide', leaving)
  })

  return { take, error, edit, settle, unsaved, undo: () => moving.mutate('undo'), redo: () => moving.mutate('redo') }
}
