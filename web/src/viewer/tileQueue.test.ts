import { expect, test } from 'vitest'

import { TileQueue, type Job } from './tileQueue'

interface Ordered extends Job {
  name: string
}
function setUp(atOnce: number) {
  const queue = new TileQueue(atOnce)
  const begun: Ordered[] = []
  const finished: string[] = []
  const add = (name: string, look: number, level: number) => {
    const job: Ordered = {
      name,
      tries: 0,
      tile: { level },
      finish: () => finished.push(name),
      fail: () => finished.push(`${name} failed`),
    }
    queue.add(job, look, () => begun.push(job))
    return job
  }
  return { add, begun, finished, names: () => begun.map(({ name }) => name) }
}
const end = (job: Job) => job.finish(null, null, '')

test('only so many run at once', () => {
  const { add, names, begun } = setUp(2)
  for (const name of ['a', 'b', 'c', 'd']) add(name, 1, 0)
  expect(names()).toEqual(['a', 'b'])
  end(begun[0]!)
  expect(names()).toEqual(['a', 'b', 'c'])
})

test('the latest look comes first, and of it the coarsest', () => {
  const { add, names, begun } = setUp(1)
  add('running', 1, 5)
  add('old, coarse', 1, 0)
  add('new, fine', 2, 6)
  add('new, coarse', 2, 1)
  for (let at = 0; at < 4; at++) end(begun[at]!)
  expect(names()).toEqual(['running', 'new, coarse', 'new, fine', 'old, coarse'])
})

test('what fails makes room as well, and nothing makes room twice', () => {
  const { add, names, begun, finished } = setUp(1)
  for (const name of ['a', 'b', 'c']) add(name, 1, 0)
  const first = begun[0]!
  first.fail('gone', null)
  first.fail('gone', null)
  end(first)
  expect(names()).toEqual(['a', 'b'])
  expect(finished).toEqual(['a failed', 'a failed', 'a'])
})

test('a download that ends at once lets the next begin', () => {
  const queue = new TileQueue(1)
  const order: string[] = []
  for (const name of ['a', 'b', 'c']) {
    const job: Job = { tries: 0, tile: { level: 0 }, finish: () => order.push(name), fail: () => undefined }
    queue.add(job, 1, () => end(job))
  }
  expect(order).toEqual(['a', 'b', 'c'])
})
