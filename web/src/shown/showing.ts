import { ref } from 'vue'

import { answer, ApiError, server, type Schemas } from '../api/client'

export type Showing = Schemas['ClientShowing']
export type Picture = Schemas['ClientPicture']
export type Verdict = Schemas['ClientAnswerIn']['verdict']

/** How often it is looked whether pictures that are still being made are there. */
const lookEveryMilliseconds = 2000

/** What opens the showing: the last part of the page's address. */
export function tokenIn(path: string): string {
  return /^\/shown\/([^/]+)/.exec(path)?.[1] ?? ''
}

/** Where a picture lies on paper: centimetres, one digit. */
export function printed({ width, height, ppi }: Pick<Picture, 'width' | 'height' | 'ppi'>): string {
  if (!ppi) return ''
  const [across, down] = [width, height].map((side) => ((side / ppi) * 2.54).toFixed(1))
  return `printed ${across} × ${down} cm at ${Number(ppi.toFixed(1))} ppi`
}

/** The showing behind the page's address, opened, followed until all of it is there, and answered. */
export function useShowing(token: string) {
  const showing = ref<Showing | null>(null)
  /** `locked` asks for a passphrase. */
  const state = ref<'opening' | 'locked' | 'open' | 'closed'>('opening')
  const fault = ref('')
  const path = { token }

  function took(told: Showing) {
    showing.value = told
    state.value = 'open'
    document.title = told.title
    if (told.pictures.some(({ ready, failed }) => !ready && !failed))
      setTimeout(() => void open(), lookEveryMilliseconds)
  }
  function refused(error: unknown) {
    if (!(error instanceof ApiError)) throw error
    fault.value =
      error.code === 'missing' ? 'This link opens nothing. Look whether all of it was copied.' : error.message
    if (error.code === 'locked') {
      state.value = 'locked'
      fault.value = ''
    } else if (error.code === 'closed' || error.code === 'missing') state.value = 'closed'
    // What did not answer is tried again.
    else if (state.value === 'opening') setTimeout(() => void open(), lookEveryMilliseconds)
  }
  /** Gives whether it went well. */
  async function tried(work: () => Promise<void>): Promise<boolean> {
    try {
      fault.value = ''
      await work()
      return true
    } catch (error) {
      refused(error)
      return false
    }
  }
  const open = () => tried(async () => took(await answer(server.GET('/api/shown/{token}', { params: { path } }))))
  const unlock = (passphrase: string) =>
    tried(async () => {
      await server.POST('/api/shown/{token}/passphrase', { params: { path }, body: { passphrase } })
      await open()
    })
  const note = (position: number, body: Schemas['ClientNoteIn']) =>
    tried(async () =>
      took(
        await answer(
          server.POST('/api/shown/{token}/pictures/{position}/notes', { params: { path: { token, position } }, body }),
        ),
      ),
    )
  const say = (position: number, body: Schemas['ClientAnswerIn']) =>
    tried(async () =>
      took(
        await answer(
          server.POST('/api/shown/{token}/pictures/{position}/answer', { params: { path: { token, position } }, body }),
        ),
      ),
    )
  return { showing, state, fault, open, unlock, note, say, base: `/api/shown/${token}` }
}
