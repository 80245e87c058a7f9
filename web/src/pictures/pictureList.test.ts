import { expect, test } from 'vitest'

import type { Delivery } from '../deliveries/queries'
import { listed, namesakes, progressOf, progressText } from './pictureList'
import type { Picture } from './queries'

const picture = (id: string, name: string, width = 100, sha256 = id) =>
  ({ id, name, sha256, facts: { width, height: 100 } }) as Picture
const all = [picture('a', 'wall 10.jpg', 300), picture('b', 'wall 2.jpg', 200), picture('c', 'kite.jpg', 100)]
const delivery = (picture_id: string, state: Delivery['state']) => ({ picture_id, state }) as Delivery
const made = [delivery('a', 'done'), delivery('a', 'failed'), delivery('b', 'running'), delivery('b', 'done')]
const ids = (search: string, order: Parameters<typeof listed>[2]) =>
  listed(
    all,
    search,
    order,
    ({ id }) => (id === 'c' ? 'noisy' : ''),
    (one) => progressOf(one, made),
  ).map(({ id }) => id)

test('names are put in order as people count', () => {
  expect(ids('', 'name')).toEqual(['c', 'b', 'a'])
  expect(ids('', 'added')).toEqual(['a', 'b', 'c'])
  expect(ids('', 'size')).toEqual(['c', 'b', 'a'])
})

test('what was not delivered comes first, else as it was', () => {
  expect(ids('', 'open')).toEqual(['c', 'a', 'b'])
})

test('every word that is searched for is in the name or the reading', () => {
  expect(ids('WALL 2', 'added')).toEqual(['b'])
  expect(ids('noisy', 'added')).toEqual(['c'])
  expect(ids('noisy wall', 'added')).toEqual([])
})

test('what became of a picture is told', () => {
  expect(progressText(progressOf(all[0]!, made))).toBe('1 file delivered, 1 file failed')
  expect(progressText(progressOf(all[1]!, made))).toBe('1 file delivered, 1 file being made')
  expect(progressText(progressOf(all[2]!, made))).toBe('nothing delivered yet')
})

test('two files of one name are told apart, and the same file twice is called so', () => {
  const same = [...all, picture('d', 'kite.jpg'), picture('e', 'kite.jpg', 100, 'c')]
  expect(Object.fromEntries(namesakes(same))).toEqual({ c: '1 of 3', d: '2 of 3', e: '3 of 3, the same file as 1' })
})
