import { defineStore } from 'pinia'
import { ref } from 'vue'

import type { Schemas } from '../api/client'
import type { PrintOrder } from '../jobs/order'
import type { StepOf } from './kinds'

export type Frame = StepOf<'frame'>
export type Crop = Schemas['Crop']
interface Size {
  width: number
  height: number
}

/** The shape a crop is held to while it is drawn; null is free. Not part of the take. */
export const useCropRatio = defineStore('crop-ratio', () => ({ ratio: ref<number | null>(null) }))

export function ratios(canvas: Size, order: PrintOrder | null) {
  const lying = canvas.width >= canvas.height
  const shape = (a: number, b: number) => (lying ? Math.max(a, b) / Math.min(a, b) : Math.min(a, b) / Math.max(a, b))
  return [
    { value: 'free', title: 'Free', ratio: null },
    ...(order
      ? [
          {
            value: 'order',
            title: `The order, ${order.width} × ${order.height} ${order.unit}`,
            ratio: shape(order.width, order.height),
          },
        ]
      : []),
    { value: 'original', title: 'As the source', ratio: canvas.width / canvas.height },
    { value: 'square', title: 'Square', ratio: 1 },
    { value: '3:2', title: '3 : 2', ratio: shape(3, 2) },
    { value: '4:3', title: '4 : 3', ratio: shape(4, 3) },
    { value: '5:4', title: '5 : 4', ratio: shape(5, 4) },
    { value: '7:5', title: '7 : 5', ratio: shape(7, 5) },
    { value: '16:9', title: '16 : 9', ratio: shape(16, 9) },
  ]
}

/** A crop of that shape inside `canvas` about the middle of `crop`: the least `around` it, or the largest `within` it. */
export function shaped(crop: Crop, canvas: Size, ratio: number, how: 'around' | 'within' = 'around'): Crop {
  const choose = how === 'around' ? Math.max : Math.min
  let width = choose(crop.width, crop.height * ratio)
  let height = width / ratio
  const shrink = Math.min(1, canvas.width / width, canvas.height / height)
  width = Math.max(1, Math.round(width * shrink))
  height = Math.max(1, Math.round(height * shrink))
  const x = Math.round(crop.x + crop.width / 2 - width / 2)
  const y = Math.round(crop.y + crop.height / 2 - height / 2)
  return inside({ x, y, width: Math.min(width, canvas.width), height: Math.min(height, canvas.height) }, canvas)
}

/** Moved, not shrunk, until it lies in the canvas. */
export function inside(crop: Crop, canvas: Size): Crop {
  return {
    ...crop,
    x: Math.max(0, Math.min(crop.x, canvas.width - crop.width)),
    y: Math.max(0, Math.min(crop.y, canvas.height - crop.height)),
  }
}

/** Turned by quarters clockwise as it is seen, the crop with it. */
export function turned(step: Frame, quarters: 1 | 3, canvas: Size, crop: Crop): Frame {
  const moved =
    quarters === 1
      ? { x: canvas.height - crop.y - crop.height, y: crop.x, width: crop.height, height: crop.width }
      : { x: crop.y, y: canvas.width - crop.x - crop.width, width: crop.height, height: crop.width }
  // A flip follows the turns in the step, and so turns the other way round.
  const turns = (step.turns + (step.flip ? 4 - quarters : quarters)) % 4
  return { ...step, turns, crop: step.crop ? moved : null }
}

export function flipped(step: Frame, canvas: Size, crop: Crop): Frame {
  return {
    ...step,
    flip: !step.flip,
    angle: -step.angle || 0,
    crop: step.crop ? { ...crop, x: canvas.width - crop.x - crop.width } : null,
  }
}
