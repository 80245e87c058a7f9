import { onScopeDispose, watch } from 'vue'

import { useDefaults } from '../settings/useDefaults'
import { Ahead } from './ahead'

const restMilliseconds = 500

const ahead = new Ahead(async (address, signal) => {
  const response = await fetch(address, { signal, headers: { 'X-Kite-Ahead': 'true' }, priority: 'low' })
  await response.blob()
  return response.ok
}, restMilliseconds)

/**
 * Fetch addresses while nobody waits for anything, unless that is switched off in the settings; the browser keeps them.
 *
 * `addresses` is to give none while something is waited for. Lower orders come first.
 */
export function useAhead(order: number, addresses: () => string[]) {
  const { defaults } = useDefaults()
  watch(
    () => (defaults.value?.ahead ? addresses() : []),
    (now) => ahead.propose(order, now),
    { immediate: true },
  )
  onScopeDispose(() => ahead.propose(order, []))
}
