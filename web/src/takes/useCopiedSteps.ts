import { useMutation, useQueryClient } from '@tanstack/vue-query'
import { ref } from 'vue'

import { answer, server } from '../api/client'
import { useNotice } from '../parts/useNotice'

interface Copied {
  takeId: string
  /** “A of Harbour wall 1988.jpg”. */
  name: string
}
const kept = 'copied steps'
/** Kept in the browser, so that steps are pasted in another window as well. */
const read = (): Copied | null => JSON.parse(localStorage.getItem(kept) ?? 'null') as Copied | null
const copied = ref(read())
window.addEventListener('storage', ({ key }) => key === kept && (copied.value = read()))

/** The steps of one take, copied to be pasted on other pictures as new takes. */
export function useCopiedSteps() {
  const client = useQueryClient()
  const notice = useNotice()

  function copy(what: Copied) {
    copied.value = what
    localStorage.setItem(kept, JSON.stringify(what))
    notice.say(`The steps of ${what.name} are copied; paste them on any picture, there they become a new take.`)
  }
  const paste = useMutation({
    mutationFn: (pictures: string[]) =>
      answer(
        server.POST('/api/takes/{take_id}/copies', {
          params: { path: { take_id: copied.value!.takeId } },
          body: { pictures, strength: 100 },
        }),
      ),
    onSuccess: async (made) => {
      await Promise.all([
        client.invalidateQueries({ queryKey: ['takes'] }),
        client.invalidateQueries({ queryKey: ['pictures'] }),
      ])
      const problem = made.find((one) => one.problem)?.problem
      if (problem) notice.say(`Pasted, but they cannot be done as they are: ${problem}`)
      else if (made.length > 1) notice.say(`Pasted on ${made.length} pictures, each as a new take.`)
    },
    onError: notice.fault,
  })
  return { copied, copy, paste }
}
