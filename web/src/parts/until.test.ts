import { expect, test } from 'vitest'
import { nextTick, ref } from 'vue'

import { until } from './until'

test('resolves at once where it holds already', async () => {
  expect(await until(() => true)).toBe(true)
})
test('resolves when it comes to hold', async () => {
  const value = ref(1)
  let told: boolean | null = null
  void until(() => value.value > 2).then((holds) => (told = holds))
  value.value = 2
  await nextTick()
  expect(told).toBeNull()
  value.value = 3
  await nextTick()
  await nextTick()
  expect(told).toBe(true)
})
test('gives up once it cannot hold any more, such as when a take cannot be loaded', async () => {
  const fault = ref<Error | null>(null)
  const waiting = until(
    () => false,
    () => fault.value !== null,
  )
  fault.value = new Error('This is not here, or it is not yours.')
  expect(await waiting).toBe(false)
})
