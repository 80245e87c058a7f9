import { beforeEach, expect, test } from 'vitest'
import { nextTick, ref } from 'vue'

import type { Take } from '../takes/queries'
import { usePanes, type Panes } from './usePanes'

const take = (id: string, plan: object | null = {}) => ({ id, name: id.toUpperCase(), plan }) as Take
const takes = ref<Take[]>([])
let panes: Panes

beforeEach(() => {
  takes.value = [take('a'), take('b'), take('broken', null), take('c'), take('d')]
  panes = usePanes(takes, () => 'a')
})

test('beside the leading take stand the original and every other take that can be shown', () => {
  expect(panes.choices.map(({ id }) => id)).toEqual(['original', 'b', 'c', 'd'])
})

test('the ways to compare come round', () => {
  const ways = [0, 1, 2, 3].map(() => {
    panes.compareNext()
    return panes.comparing
  })
  expect(ways).toEqual(['divider', 'sides', 'four', 'one'])
})

test('four panes are filled with takes that have not been picked yet', async () => {
  panes.put('c', 0)
  panes.compare('four')
  await nextTick()
  expect(panes.others).toEqual(['c', 'b', 'd'])
  expect(panes.beside).toEqual(['c', 'b', 'd'])
})

test('four panes show nothing twice and never the leading take', async () => {
  takes.value = [take('a'), take('b')]
  panes.compare('four')
  await nextTick()
  panes.put('a', 2)
  expect(panes.beside).toEqual(['original', 'b'])
})

test('a pane goes through all that can stand in it', () => {
  const seen = [0, 1, 2, 3].map(() => {
    panes.swap(0)
    return panes.others[0]
  })
  expect(seen).toEqual(['b', 'c', 'd', 'original'])
  expect(panes.second).toBe('original')
})

test('what is shown instead of pixels is taken back by asking again', () => {
  panes.showAs('difference')
  panes.showAs('clipping')
  expect(panes.as).toBe('clipping')
  panes.showAs('clipping')
  expect(panes.as).toBe('pixels')
})

test('the difference is amplified up to sixteen times and begins again', () => {
  const gains = [0, 1, 2].map(() => {
    panes.amplify()
    return panes.gain
  })
  expect(gains).toEqual([8, 16, 2])
})
