import {
  computed,
  getCurrentInstance,
  inject,
  onScopeDispose,
  provide,
  shallowRef,
  type ComponentInternalInstance,
  type InjectionKey,
  type Ref,
} from 'vue'

export const keyGroups = ['look', 'compare', 'steps', 'by hand', 'takes and check spots', 'prints and files'] as const

export interface Key {
  /** As KeyboardEvent.key, lower case, with `ctrl+`, `shift+`, `alt+` before it. */
  key: string
  /** What is shown on the sheet. */
  shown: string
  does: string
  group: (typeof keyGroups)[number]
  run: () => void
  /** For keys that act while held. */
  release?: () => void
}

interface Keys {
  all: Readonly<Ref<Key[]>>
  add: (keys: () => Key[]) => () => void
}
const injectionKey: InjectionKey<Keys> = Symbol('keys')
const own = new WeakMap<ComponentInternalInstance, Keys>()

const typing = (target: EventTarget | null) =>
  target instanceof HTMLElement && (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName))

/** What is pressed, as {@link Key.key} has it. */
export function named(event: Pick<KeyboardEvent, 'key' | 'ctrlKey' | 'metaKey' | 'altKey' | 'shiftKey'>): string {
  const parts = []
  if (event.ctrlKey || event.metaKey) parts.push('ctrl')
  if (event.altKey) parts.push('alt')
  // Shift is part of what `?` or `+` are; it is named only beside letters and the arrows.
  if (event.shiftKey && (/^[a-z]$/i.test(event.key) || event.key.length > 1)) parts.push('shift')
  parts.push(event.key.toLowerCase())
  return parts.join('+')
}

/** Keys do not act while something is typed, a dialog or a menu is open, or a slider has them. */
function elsewhere(event: KeyboardEvent): boolean {
  if (document.querySelector('.v-overlay--active .v-card, .v-menu.v-overlay--active')) return true
  // What is marked on the page is copied as everywhere.
  if (named(event) === 'ctrl+c' && window.getSelection()?.toString()) return true
  if (typing(event.target) && !(event.ctrlKey && /^[zy]$/i.test(event.key)) && event.key !== 'Escape') return true
  return event.target instanceof HTMLElement && event.target.role === 'slider' && event.key.startsWith('Arrow')
}

/** A view with keys, to which its parts add theirs by {@link useKeys}. */
export function provideKeys(): Keys {
  const sources = shallowRef<(() => Key[])[]>([])
  const all = computed(() => {
    const keys = sources.value.flatMap((source) => source())
    return keys.toSorted((a, b) => keyGroups.indexOf(a.group) - keyGroups.indexOf(b.group))
  })
  const held = new Map<string, Key>()

  function down(event: KeyboardEvent) {
    if (elsewhere(event)) return
    const key = all.value.find((one) => one.key === named(event))
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

  const keys: Keys = {
    all,
    add(source) {
      sources.value = [...sources.value, source]
      return () => (sources.value = sources.value.filter((one) => one !== source))
    },
  }
  provide(injectionKey, keys)
  // What a component provides it cannot inject itself.
  const owner = getCurrentInstance()
  if (owner) own.set(owner, keys)
  return keys
}

/** Bring keys to the view this part is in, for as long as it is there. */
export function useKeys(source: () => Key[]) {
  const keys = own.get(getCurrentInstance()!) ?? inject(injectionKey, undefined)
  if (keys) onScopeDispose(keys.add(source))
}

const arrows = { left: [-1, 0], right: [1, 0], up: [0, -1], down: [0, 1] } as const

/** The arrows move what `move` moves by steps, with shift ten times as far. */
export function arrowKeys(move: (x: number, y: number) => void): Key[] {
  const moving = (prefix: string, shown: string, does: string, far: number): Key[] =>
    Object.entries(arrows).map(([way, [x, y]]) => ({
      key: `${prefix}arrow${way}`,
      shown,
      does,
      group: 'look',
      run: () => move(x * far, y * far),
    }))
  return [
    ...moving('', '← → ↑ ↓', 'move the picture, or the crop', 1),
    ...moving('shift+', 'Shift ← …', 'the same, ten times as far', 10),
  ]
}
