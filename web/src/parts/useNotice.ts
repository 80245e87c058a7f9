import { defineStore } from 'pinia'
import { ref } from 'vue'

export interface Notice {
  text: string
  tone: 'plain' | 'fault'
  /** Tells it from the one before, whose time must not run out for it. */
  number: number
  action?: { label: string; run: () => void }
}

/** One line at the head of the window: what happened, and how to take it back where that is possible. */
export const useNotice = defineStore('notice', () => {
  const current = ref<Notice | null>(null)

  let count = 0

  function say(text: string, action?: Notice['action']) {
    current.value = { text, tone: 'plain', action, number: ++count }
  }

  function fault(error: unknown) {
    current.value = { text: error instanceof Error ? error.message : String(error), tone: 'fault', number: ++count }
  }

  return { current, say, fault }
})
