import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest'
import { effectScope, type EffectScope } from 'vue'
import type * as Vue from 'vue'

import { arrowKeys, named, provideKeys, type Key } from './useKeys'

// Keys are tried without a component that they could be handed down from.
vi.mock('vue', async (original) => ({ ...(await original<typeof Vue>()), provide: () => undefined }))

const nothing = { ctrlKey: false, metaKey: false, altKey: false, shiftKey: false }

describe('what is pressed', () => {
  test.each([
    [{ key: 'A' }, 'a'],
    [{ key: 'A', shiftKey: true }, 'shift+a'],
    [{ key: '?', shiftKey: true }, '?'],
    [{ key: 'ArrowLeft', shiftKey: true }, 'shift+arrowleft'],
    [{ key: 'z', ctrlKey: true }, 'ctrl+z'],
    [{ key: 'Z', metaKey: true, shiftKey: true }, 'ctrl+shift+z'],
    [{ key: '1', altKey: true }, 'alt+1'],
  ])('%o is “%s”', (event, name) => {
    expect(named({ ...nothing, ...event })).toBe(name)
  })
})

class Element {
  isContentEditable = false
  constructor(
    public tagName = 'DIV',
    public role: string | null = null,
  ) {}
}

describe('keys of a view', () => {
  const heard: Record<string, (event: object) => void> = {}
  let overlay: object | null = null
  let scope: EffectScope
  let done: string[]
  let prevented: number

  beforeEach(() => {
    overlay = null
    done = []
    prevented = 0
    vi.stubGlobal('HTMLElement', Element)
    vi.stubGlobal('document', { querySelector: () => overlay })
    vi.stubGlobal('window', {
      addEventListener: (name: string, listener: (event: object) => void) => (heard[name] = listener),
      removeEventListener: (name: string) => delete heard[name],
    })
    scope = effectScope()
  })
  afterEach(() => {
    scope.stop()
    vi.unstubAllGlobals()
  })

  const event = (key: string, more: object = {}) => ({
    key,
    ...nothing,
    target: new Element(),
    preventDefault: () => prevented++,
    ...more,
  })
  const press = (key: string, more?: object) => heard.keydown!(event(key, more))
  const key = (name: string, group: Key['group'] = 'look', more: Partial<Key> = {}): Key => ({
    key: name,
    shown: name,
    does: name,
    group,
    run: () => done.push(name),
    ...more,
  })
  function view(...keys: Key[]) {
    const all = scope.run(provideKeys)!
    return { all, off: all.add(() => keys) }
  }

  test('are told in the order of their groups, whichever part brought them', () => {
    const { all } = view(key('d', 'prints and files'), key('c', 'compare'))
    all.add(() => [key('a', 'look')])
    expect(all.all.value.map((one) => one.key)).toEqual(['a', 'c', 'd'])
  })

  test('act, and the browser does not', () => {
    view(key('g'))
    press('g')
    expect(done).toEqual(['g'])
    expect(prevented).toBe(1)
  })

  test('that nobody brought are the browser’s', () => {
    view(key('g'))
    press('h')
    expect(prevented).toBe(0)
  })

  test('go when their part goes', () => {
    const { off } = view(key('g'))
    off()
    press('g')
    expect(done).toEqual([])
  })

  test('rest while something is typed, but undo is still heard', () => {
    view(key('g'), key('ctrl+z'))
    press('g', { target: new Element('INPUT') })
    expect(done).toEqual([])
    press('z', { ctrlKey: true, target: new Element('INPUT') })
    expect(done).toEqual(['ctrl+z'])
  })

  test('rest while a dialog is open', () => {
    view(key('g'))
    overlay = {}
    press('g')
    expect(done).toEqual([])
  })

  test('leave the arrows to a slider', () => {
    view(...arrowKeys((x, y) => done.push(`${x},${y}`)))
    press('ArrowLeft', { target: new Element('DIV', 'slider') })
    expect(done).toEqual([])
  })

  test('arrows move by steps, with shift ten times as far', () => {
    view(...arrowKeys((x, y) => done.push(`${x},${y}`)))
    press('ArrowLeft')
    press('ArrowDown', { shiftKey: true })
    expect(done).toEqual(['-1,0', '0,10'])
  })

  test('that are held act once until they are let go', () => {
    view(key('b', 'compare', { release: () => done.push('let go') }))
    press('b')
    press('b')
    heard.keyup!(event('b'))
    press('b')
    expect(done).toEqual(['b', 'let go', 'b'])
  })

  test('that are held are let go when the window is left', () => {
    view(key('b', 'compare', { release: () => done.push('let go') }))
    press('b')
    heard.blur!({})
    heard.keyup!(event('b'))
    expect(done).toEqual(['b', 'let go'])
  })

  test('are heard no more once the view is gone', () => {
    view(key('b'))
    scope.stop()
    expect(Object.keys(heard)).toEqual([])
  })
})
