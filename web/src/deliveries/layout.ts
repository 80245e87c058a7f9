import type { OutputSpec } from './useDeliveries'

export type Layout = Required<Omit<NonNullable<OutputSpec['layout']>, 'panel'>>

export const bare: Layout = {
  border_mm: 0,
  wrap_mm: 0,
  wrap: 'mirror',
  bleed_mm: 0,
  colour: '#ffffff',
  marks: false,
  panels_across: 1,
  panels_down: 1,
  overlap_mm: 0,
}

export const edges: { value: Layout['wrap']; title: string; what: string }[] = [
  { value: 'mirror', title: 'Mirror', what: 'The picture goes on mirrored' },
  { value: 'stretch', title: 'Stretch', what: 'Its edge is drawn out' },
  { value: 'blur', title: 'Blur', what: 'Mirrored, and softer than the face' },
  { value: 'plain', title: 'Plain', what: 'One colour' },
]

/** Whether anything is around the picture at all. */
export const isBare = (layout: Layout) =>
  !layout.border_mm &&
  !layout.wrap_mm &&
  !layout.bleed_mm &&
  !layout.marks &&
  layout.panels_across * layout.panels_down === 1
