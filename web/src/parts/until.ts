import { watch } from 'vue'

/**
 * Wait until something holds, as it is told by what it depends on; nothing is asked over and over.
 *
 * @returns whether it came to hold; false once it cannot any more.
 */
export function until(holds: () => boolean, hopeless: () => boolean = () => false): Promise<boolean> {
  return new Promise((resolve) => {
    const stop = watch(
      [holds, hopeless],
      ([yes, never]) => {
        if (!yes && !never) return
        resolve(yes)
        // The watcher that calls at once has no name yet.
        queueMicrotask(() => stop())
      },
      { immediate: true },
    )
  })
}
