import { describe, expect, test } from 'vitest'

import type { Schemas } from '../api/client'
import type { Step, Take } from '../takes/queries'
import { wholePeriods } from './seamless'

const picture = { facts: { width: 600, height: 400 } } as Schemas['PictureOut']
const seamless = { kind: 'seamless', on: true, across: 15, down: 12, even: 70 }
const side = (period: number | null, whole: number) => ({ period, whole, overlap: 20 })
const take = (steps: object[], framed = { width: 600, height: 400 }) =>
  ({ id: 't', steps: steps as Step[], plan: { framed } }) as unknown as Take
const found = { across: side(23.4, 585), down: side(null, 400) }

describe('whole periods', () => {
  test('are cropped in the frame, and nothing lies over along a side that has a period', () => {
    const steps = wholePeriods(take([{ kind: 'frame', on: true, turns: 0 }, seamless]), picture, 1, found)!
    expect(steps[0]).toMatchObject({ kind: 'frame', crop: { x: 0, y: 0, width: 585, height: 400 } })
    expect(steps[1]).toMatchObject({ across: 0, down: 12 })
  })

  test('begin where the crop begins', () => {
    const crop = { x: 40, y: 30, width: 500, height: 300 }
    const given = take([{ kind: 'frame', on: true, crop }, seamless], { width: 500, height: 300 })
    const steps = wholePeriods(given, picture, 1, { across: side(50, 500), down: side(40, 280) })!
    expect(steps[0]).toMatchObject({ crop: { x: 40, y: 30, width: 500, height: 280 } })
  })

  test('of a turned and straightened picture lie about its middle', () => {
    const given = take([{ kind: 'frame', on: true, turns: 1 }, seamless], { width: 360, height: 560 })
    const steps = wholePeriods(given, picture, 1, { across: side(50, 350), down: side(40, 560) })!
    expect(steps[0]).toMatchObject({ crop: { x: 20, y: 20, width: 350, height: 560 } })
  })

  test('need a frame, which is put first, and a plan', () => {
    const steps = wholePeriods(take([seamless]), picture, 0, found)!
    expect(steps.map(({ kind }) => kind)).toEqual(['frame', 'seamless'])
    expect(wholePeriods({ ...take([seamless]), plan: null } as Take, picture, 0, found)).toBeNull()
  })
})
