import { describe, expect, it } from 'vitest'

import { cellStyle, gainText, leadText } from './figures'

describe('figures of a rehearsal', () => {
  it('tells gains with their sign', () => {
    expect(gainText({ gain: 1.234 })).toBe('+1.23 dB')
    expect(gainText({ gain: -0.5 })).toBe('−0.50 dB')
  })

  it('tells a clear lead, and two that come out alike', () => {
    const best = { called: 'repair 100, faithful', gain: 1.2 }
    expect(leadText([best, { called: 'plain', gain: 0 }])).toBe('repair 100, faithful leads by 1.2 dB.')
    expect(leadText([best, { called: 'salvage', gain: 1.1 }])).toContain('come out alike')
    const weaker = { called: 'repair 70, faithful', gain: 1.19 }
    expect(leadText([best, weaker, { called: 'plain', gain: 0 }])).toContain('leads by 1.2 dB')
    expect(leadText([best, weaker])).toBe('')
  })

  it('shows one square of a sheet', () => {
    expect(cellStyle('/sheet.png', 3, 96)).toMatchObject({ width: '96px', backgroundPosition: '-288px 0' })
  })
})
