import { reactive, ref } from 'vue'

import type { Schemas } from '../api/client'
import type { Mask } from './parts'

export type Stroke = Schemas['Stroke']

/** The brush people paint masks with: one for all steps, as a hand holds one brush. */
const brush = reactive({
  /** Diameter in pixels of the source. */
  size: 60,
  softness: 50,
  strength: 100,
  erase: false,
  edges: false,
})
/** The step that is being painted, as its place on the line; null while nothing is. */
const painting = ref<number | null>(null)
/** The part of the open step's mask whose settings are open. */
const part = ref<number | null>(null)
/** Whether the mask is shown over the picture. */
const overlay = ref(true)
/** A step whose weights are shown for as long as a control of it is dragged. */
const peeking = ref(false)
/** A mask that was copied, to be put on another step. */
const copied = ref<Mask | null>(null)

export function useBrush() {
  return { brush, painting, part, overlay, peeking, copied }
}

/** Brush sizes as a hand changes them: by a fifth. */
export function resized(size: number, way: 1 | -1): number {
  return Math.round(Math.min(2000, Math.max(2, way > 0 ? size * 1.2 + 1 : size / 1.2 - 1)))
}
