import { ref } from 'vue'

/** Whether what is clipped is striped over the picture: for as long as a control of tones is dragged. */
const clipped = ref(false)

export function useMarks() {
  return { clipped }
}
