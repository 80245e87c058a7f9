import type { Schemas } from '../api/client'
import { length } from '../parts/format'

export type PrintOrder = Schemas['PrintOrder']

const inchesPer = { mm: 1 / 25.4, cm: 1 / 2.54, in: 1 }

export function orderText(order: PrintOrder): string {
  return `${length(order.width)} × ${length(order.height)} ${order.unit} at ${order.ppi ?? 300} ppi`
}

export function inches(value: number, unit: keyof typeof inchesPer): number {
  return value * inchesPer[unit]
}

/** The order turned to lie or stand like the picture. */
export function turnedOrder(order: PrintOrder, size: { width: number; height: number }): PrintOrder {
  const alike = order.width > order.height === size.width > size.height
  return alike ? order : { ...order, width: order.height, height: order.width }
}

/** Pixels per inch the ordered print really gets when the picture is fitted inside it. */
export function ppiOfOrder(order: PrintOrder, size: { width: number; height: number }): number {
  const turned = turnedOrder(order, size)
  const unit = order.unit ?? 'cm'
  // Fitted inside, the side that touches the paper's edge is the one with more pixels per inch.
  return Math.max(size.width / inches(turned.width, unit), size.height / inches(turned.height, unit))
}
