import { computed } from 'vue'
import { useTheme } from 'vuetify'

import type { Surround } from './theme'

export const surrounds: { value: Surround; title: string }[] = [
  { value: 'dusk', title: 'Dark grey' },
  { value: 'overcast', title: 'Middle grey' },
  { value: 'paper', title: 'Light grey' },
]

/** The neutral grey around pictures, remembered on this machine. */
export function useSurround() {
  const theme = useTheme()
  const surround = computed({
    get: () => theme.global.name.value as Surround,
    set: (value) => {
      theme.change(value)
      localStorage.setItem('surround', value)
    },
  })
  function next() {
    const place = surrounds.findIndex((one) => one.value === surround.value)
    surround.value = surrounds[(place + 1) % surrounds.length]!.value
  }
  return { surround, next }
}
