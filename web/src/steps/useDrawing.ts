import { ref } from 'vue'

/** What is drawn on the picture for a step: a line as long as a point was drawn out, an area to be read, a box around a face;
 * or what is picked: a place that should be grey, a hue, where a patch takes from; for masks a colour, and a box around a
 * subject. */
export type What = 'line' | 'area' | 'face' | 'grey' | 'hue' | 'range' | 'subject' | 'patch'
/** What takes a click alone. */
export const picked: readonly What[] = ['grey', 'hue', 'range', 'patch']

export interface Drawing {
  /** The step's place on the line. */
  step: number
  what: What
}
export interface Drawn {
  what: What
  /** Two places in pixels of the source; the same where one was picked. */
  start: [number, number]
  end: [number, number]
}

const drawing = ref<Drawing | null>(null)
/** The area that was drawn is being read. */
const reading = ref(false)

export function useDrawing() {
  return { drawing, reading }
}
