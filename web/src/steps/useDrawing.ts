import { ref } from 'vue'

/** What is being drawn on the picture for a step: a line as long as a point was drawn out, an area to be read,
 * or a box around a face. */
export interface Drawing {
  /** The step's place on the line. */
  step: number
  what: 'line' | 'area' | 'face'
}
export interface Drawn {
  what: 'line' | 'area' | 'face'
  /** Two places in pixels of the source. */
  start: [number, number]
  end: [number, number]
}

const drawing = ref<Drawing | null>(null)
/** The area that was drawn is being read. */
const reading = ref(false)

export function useDrawing() {
  return { drawing, reading }
}
