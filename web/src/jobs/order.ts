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

/** What of an order a picture of some size meets, laid on the paper as large as all of it can be seen. */
export interface OrderMet {
  /** Pixels per inch it has there. */
  ppi: number
  /** What of the paper it covers, in the order's unit. */
  width: number
  height: number
  /** Whether it covers all of it, as nearly as whole pixels allow. */
  covers: boolean
  word: 'enough' | 'a little short' | 'short' | 'another shape'
}

export function orderMet(order: PrintOrder, size: { width: number; height: number }): OrderMet {
  const paper = turnedOrder(order, size)
  const unit = order.unit ?? 'cm'
  // Fitted inside, the side that touches the paper's edge is the one with more pixels per inch.
  const ppi = Math.max(size.width / inches(paper.width, unit), size.height / inches(paper.height, unit))
  const side = (pixels: number) => pixels / ppi / inchesPer[unit]
  const [width, height] = [side(size.width), side(size.height)]
  const free = Math.max(paper.width - width, paper.height - height)
  const covers = (free / inchesPer.in) * inchesPer[unit] * ppi <= 2 || free / Math.max(width, height) <= 0.002
  const share = ppi / (order.ppi ?? 300)
  const word = !covers ? 'another shape' : share >= 0.995 ? 'enough' : share >= 0.7 ? 'a little short' : 'short'
  return { ppi, width, height, covers, word }
}
