import { onScopeDispose } from 'vue'

export interface Key {
  /** As KeyboardEvent.key, lower case, with `ctrl+`, `shift+`, `alt+` before it. */
  key: string
  /** What is shown on the sheet. */
  shown: string
  does: string
  run: () => void
  /** For keys that act while held. */
  release?: () => void
}

const typing = (target: EventTarget | null) =>
  target instanceof HTMLElement && (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName))

function named(event: KeyboardEvent): string {
  const parts = []
  if (event.ctrlKey || event.metaKey) parts.push('ctrl')
  if (event.altKey) parts.push('alt')
  // Shift is part of what `?` or `+` are; it is named only beside letters and the arrows.
  if (event.shiftKey && (/^[a-z]$/i.test(event.key) || event.key.length > 1)) parts.push('shift')
  parts.push(event.key.toLowerCase())
  return parts.join('+')
}

/** Keys of a view; they rest while a field is typed in or a dialog is open. */
export function useKeys(keys: () => Key[]) {
  const held = new Map<string, Key>()

  function down(event: KeyboardEvent) {
    if (document.querySelector('.v-overlay--active .v-card') || document.querySelector('.v-menu.v-overlay--active')) return
    if (typing(event.target) && !(event.ctrlKey && /^[zy]$/i.test(event.key)) && event.key !== 'Escape') return
    if (event.target instanceof HTMLElement && event.target.role === 'slider' && event.key.startsWith('Arrow')) return
    const key = keys().find((one) => one.key === named(event))
    if (!key) return
    event.preventDefault()
    if (key.release) {
      if (held.has(event.key.toLowerCase())) return
      held.set(event.key.toLowerCase(), key)
    }
    key.run()
  }

  function up(event: KeyboardEvent) {
    held.get(event.key.toLowerCase())?.release?.()
    held.delete(event.key.toLowerCase())
  }

  function lost() {
    for (const key of held.values()) key.release?.()
    held.clear()
  }

  window.addEventListener('keydown', down)
  window.addEventListener('keyup', up)
  window.addEventListener('blur', lost)
  onScopeDispose(() => {
    window.removeEventListener('keydown', down)
    window.removeEventListener('keyup', up)
    window.removeEventListener('blur', lost)
  })
}
