import { reactive } from 'vue'

/** What the large view looks at: its middle as shares of the result's width and height, and screen pixels per pixel. */
const look = reactive({ x: 0.5, y: 0.5, scale: 1 })

export function useLook() {
  return look
}
