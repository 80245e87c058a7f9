import { afterEach, beforeEach, expect, test, vi } from 'vitest'

import { SaveQueue, type Saving } from './saveQueue'

interface Sent {
  id: string
  content: string
  answer: (text: string) => void
  refuse: (fault: Error) => void
}
let sent: Sent[]
let told: string[]
let queue: SaveQueue<string, string>

beforeEach(() => {
  vi.useFakeTimers()
  sent = []
  told = []
  const saving: Saving<string, string> = {
    send: (id, content) => new Promise((answer, refuse) => sent.push({ id, content, answer, refuse })),
    saved: (answer) => told.push(`saved ${answer}`),
    refused: (id, fault, latest) => told.push(`refused ${id} ${(fault as Error).message}${latest ? ', latest' : ''}`),
    unsaved: (now) => told.push(now ? 'unsaved' : 'settled'),
  }
  queue = new SaveQueue(saving, 200)
})
afterEach(() => vi.useRealTimers())
const passed = (milliseconds = 0) => vi.advanceTimersByTimeAsync(milliseconds)

test('waits for more changes and sends the newest', async () => {
  queue.change('a', 'one')
  await passed(150)
  queue.change('a', 'two')
  await passed(150)
  expect(sent).toHaveLength(0)
  await passed(60)
  expect(sent.map(({ content }) => content)).toEqual(['two'])
})

test('sends one after another, in the order of the changes', async () => {
  queue.change('a', 'one', true)
  queue.change('a', 'two', true)
  queue.change('b', 'three', true)
  await passed()
  expect(sent.map(({ content }) => content)).toEqual(['one'])
  sent[0]!.answer('one')
  await passed()
  sent[1]!.answer('two')
  await passed()
  expect(sent.map(({ id, content }) => `${id} ${content}`)).toEqual(['a one', 'a two', 'b three'])
})

test('an answer to an earlier change takes later ones not back', async () => {
  queue.change('a', 'one', true)
  await passed()
  queue.change('a', 'two', true)
  sent[0]!.answer('answer to one')
  await passed()
  sent[1]!.answer('answer to two')
  await passed()
  expect(told.filter((one) => one.startsWith('saved'))).toEqual(['saved answer to two'])
  expect(told.at(-1)).toBe('settled')
})

test('what was refused is told, and the next is sent all the same', async () => {
  queue.change('a', 'one', true)
  queue.change('a', 'two', true)
  await passed()
  sent[0]!.refuse(new Error('no'))
  await passed()
  sent[1]!.refuse(new Error('never'))
  await passed()
  expect(told).toEqual(['unsaved', 'unsaved', 'refused a no', 'refused a never, latest', 'settled'])
})

test('settling sends at once and waits for the answer', async () => {
  queue.change('a', 'one')
  let settled = false
  void queue.settle().then(() => (settled = true))
  await passed()
  expect([sent.length, settled]).toEqual([1, false])
  sent[0]!.answer('one')
  await passed()
  expect(settled).toBe(true)
})
