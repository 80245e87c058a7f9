import { nextTick, watch, type Ref } from 'vue'

/**
 * The focus goes back to where it was before something was opened, and while it is open never falls to the page because
 * what had it is gone: then `within` gives where it goes.
 */
export function useFocusBack(open: Ref<boolean>, within: () => HTMLElement | null | undefined, changes: () => unknown) {
  let before: Element | null = null
  const lost = () => !document.activeElement || document.activeElement === document.body
  watch(open, async (now) => {
    if (now) return void (before = document.activeElement)
    await nextTick()
    if (before instanceof HTMLElement && before !== document.body && before.isConnected) before.focus()
  })
  watch(changes, async () => {
    await nextTick()
    if (open.value && (lost() || document.activeElement!.getAttribute('role') === 'dialog')) within()?.focus()
  })
}
