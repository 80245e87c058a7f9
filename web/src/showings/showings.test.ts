import { expect, test } from 'vitest'

import type { Picture } from '../pictures/queries'
import type { Showing, ShownPicture } from './queries'
import { choicesOf, latestOf, picturesOf, stateText, verdictText } from './showings'

const picture = (id: string, ...takes: { id: string; chosen: boolean }[]) => ({ id, takes }) as Picture
const shown = (more: Partial<ShownPicture> = {}) =>
  ({ picture_id: 'a', state: 'done', answer: null, ...more }) as ShownPicture
const showing = (more: Partial<Showing> = {}) =>
  ({
    pictures: [shown()],
    expires: '2030-01-02T00:00:00Z',
    revoked: null,
    followed: false,
    seen: null,
    ...more,
  }) as Showing
const now = Date.parse('2030-01-01T00:00:00Z')

test('every picture is shown by its chosen take, or its first; one without takes cannot be', () => {
  const pictures = [
    picture('a', { id: 'a1', chosen: false }, { id: 'a2', chosen: true }),
    picture('b', { id: 'b1', chosen: false }),
    picture('c'),
  ]
  const choices = choicesOf(pictures, null)
  expect(picturesOf(choices)).toEqual([
    { picture_id: 'a', take_id: 'a2' },
    { picture_id: 'b', take_id: 'b1' },
  ])
  const next = choicesOf(pictures, showing({ pictures: [shown({ picture_id: 'b' })] }))
  expect(picturesOf(next)).toEqual([{ picture_id: 'b', take_id: 'b1' }])
})

test('what has become of a showing', () => {
  expect(stateText(showing(), now)).toBe('not looked at yet')
  expect(stateText(showing({ seen: '2029-12-31T00:00:00Z' }), now)).toBe('looked at')
  expect(stateText(showing({ revoked: '2029-12-31T00:00:00Z' }), now)).toBe('closed')
  expect(stateText(showing({ expires: '2029-12-31T00:00:00Z' }), now)).toBe('over')
  expect(stateText(showing({ followed: true }), now)).toBe('has a next round')
  expect(stateText(showing({ pictures: [shown(), shown({ state: 'running' })] }), now)).toBe(
    'being made: 1 of 2 pictures',
  )
  expect(stateText(showing({ pictures: [shown({ state: 'failed' })] }), now)).toBe('1 of 1 could not be made')
})

test('the latest round counts', () => {
  const answer = { verdict: 'changes', name: 'Ines', words: '', created: '' } as const
  const first = showing({ pictures: [shown({ answer })] })
  const second = showing({ pictures: [shown()] })
  expect(latestOf([second, first], 'a')!.answer).toBeNull()
  expect(verdictText(latestOf([first], 'a')!)).toBe('Ines asks for changes')
  expect(verdictText(shown({ answer: { ...answer, verdict: 'approved' } }))).toBe('approved by Ines')
  expect(latestOf([first], 'z')).toBeNull()
})
