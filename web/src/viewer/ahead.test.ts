import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest'

import { Ahead } from './ahead'

beforeEach(() => void vi.useFakeTimers())
afterEach(() => void vi.useRealTimers())

function made(answers: Record<string, boolean[]> = {}) {
  const asked: string[] = []
  const aborted: string[] = []
  const ahead = new Ahead(async (address, signal) => {
    asked.push(address)
    signal.addEventListener('abort', () => aborted.push(address))
    await new Promise((resolve) => setTimeout(resolve, 100))
    if (signal.aborted) throw new Error('aborted')
    return answers[address]?.shift() ?? true
  }, 400)
  return { ahead, asked, aborted }
}
const passed = (milliseconds: number) => vi.advanceTimersByTimeAsync(milliseconds)

describe('what is fetched ahead', () => {
  test('comes one at a time, once, after a moment of rest', async () => {
    const { ahead, asked } = made()
    ahead.propose(0, ['a', 'b'])
    await passed(399)
    expect(asked).toEqual([])
    await passed(51)
    expect(asked).toEqual(['a'])
    await passed(1000)
    expect(asked).toEqual(['a', 'b'])
    ahead.propose(0, ['b', 'a', 'c'])
    await passed(2000)
    expect(asked).toEqual(['a', 'b', 'c'])
  })

  test('comes by its order, whoever proposed first', async () => {
    const { ahead, asked } = made()
    ahead.propose(2, ['board'])
    ahead.propose(1, ['beside'])
    await passed(1000)
    expect(asked).toEqual(['beside', 'board'])
  })

  test('ends when nobody wants it any more', async () => {
    const { ahead, asked, aborted } = made()
    ahead.propose(0, ['a', 'b'])
    await passed(450)
    ahead.propose(0, [])
    await passed(3000)
    expect([asked, aborted]).toEqual([['a'], ['a']])
  })

  test('goes on if it is still wanted', async () => {
    const { ahead, asked, aborted } = made()
    ahead.propose(0, ['a', 'b'])
    await passed(450)
    ahead.propose(0, ['c', 'a'])
    await passed(3000)
    expect([asked, aborted]).toEqual([['a', 'c'], []])
  })

  test('is tried again later if the server gave way to somebody', async () => {
    const { ahead, asked } = made({ a: [false, true] })
    ahead.propose(0, ['a'])
    await passed(520)
    expect(asked).toEqual(['a'])
    await passed(2000)
    expect(asked).toEqual(['a', 'a'])
  })
})
