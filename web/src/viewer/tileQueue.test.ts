import { expect, test } from 'vitest'

import { TileQueue, type Job, type Want } from './tileQueue'

interface Ordered extends Job {
  name: string
}
const want = (more: Partial<Want> = {}): Want => ({ look: 1, timely: () => true, patience: () => 0, ...more })

function setUp(atOnce: number) {
  const queue = new TileQueue(atOnce)
  const begun: Ordered[] = []
  const finished: string[] = []
  const add = (name: string, more: Partial<Want> = {}) => {
    const job: Ordered = {
      name,
      tries: 0,
      finish: () => finished.push(name),
      fail: () => finished.push(`${name} failed`),
    }
    queue.add(job, want(more), () => begun.push(job))
    return job
  }
  return { queue, add, begun, finished, names: () => begun.map(({ name }) => name) }
}
const end = (job: Job) => job.finish(null, null, '')

test('only so many run at once', () => {
  const { add, names, begun } = setUp(2)
  for (const name of ['a', 'b', 'c', 'd']) add(name)
  expect(names()).toEqual(['a', 'b'])
  end(begun[0]!)
  expect(names()).toEqual(['a', 'b', 'c'])
})

test('the latest look comes first, and of it the most urgent', () => {
  const { add, names, begun } = setUp(1)
  add('running')
  add('old, near', { patience: () => 0 })
  add('new, far', { look: 2, patience: () => 6 })
  add('new, near', { look: 2, patience: () => 1 })
  for (let at = 0; at < 4; at++) end(begun[at]!)
  expect(names()).toEqual(['running', 'new, near', 'new, far', 'old, near'])
})

test('how urgent a tile is, is asked when there is room, not when it came', () => {
  const { add, names, begun } = setUp(1)
  let pointer = 0
  add('running')
  add('left', { patience: () => Math.abs(0 - pointer) })
  add('right', { patience: () => Math.abs(9 - pointer) })
  pointer = 8
  end(begun[0]!)
  expect(names()).toEqual(['running', 'right'])
})

test('a tile that is of no use now waits until it is, and holds up no other', () => {
  const { queue, add, names, begun } = setUp(1)
  let level = 5
  const at = (own: number) => ({ timely: () => level === own })
  add('coarse', at(2))
  expect(names()).toEqual([])
  add('fine', at(5))
  end(begun[0]!)
  expect(names()).toEqual(['fine'])
  level = 2
  queue.next()
  expect(names()).toEqual(['fine', 'coarse'])
})

test('what fails makes room as well, and nothing makes room twice', () => {
  const { add, names, begun, finished } = setUp(1)
  for (const name of ['a', 'b', 'c']) add(name)
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
    const job: Job = { tries: 0, finish: () => order.push(name), fail: () => undefined }
    queue.add(job, want(), () => end(job))
  }
  expect(order).toEqual(['a', 'b', 'c'])
})

test('what is waited for longest begins beside as many others as may run', () => {
  const { add, names, begun } = setUp(1)
  add('tile')
  add('another tile')
  add('exact part', { urgent: true })
  expect(names()).toEqual(['tile', 'exact part'])
  end(begun[0]!)
  expect(names()).toEqual(['tile', 'exact part'])
  end(begun[1]!)
  expect(names()).toEqual(['tile', 'exact part', 'another tile'])
})
