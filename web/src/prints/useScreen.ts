import { computed, reactive, watch } from 'vue'

/** A bank card by ISO/IEC 7810 (ID-1), in millimetres: everybody has one to measure a screen with. */
export const card = { width: 85.6, height: 53.98 }

interface Screen {
  /** Device pixels per millimetre; null until the screen has been measured. */
  fineness: number | null
  /** How far from it one sits, in cm. */
  sits: number
  /** How far from the print one stands, in cm; null: as far as its diagonal is long. */
  stands: number | null
}
/** What browsers take a screen for that nobody has measured: 96 pixels per inch. */
const unmeasured = 96 / 25.4

function kept(): Screen {
  try {
    return {
      fineness: null,
      sits: 60,
      stands: null,
      ...(JSON.parse(localStorage.getItem('screen') ?? '{}') as Partial<Screen>),
    }
  } catch {
    return { fineness: null, sits: 60, stands: null }
  }
}
const screen = reactive<Screen>(kept())
watch(screen, (now) => localStorage.setItem('screen', JSON.stringify(now)))

/** How large this screen's pixels are and where people are, remembered on this machine. */
export function useScreen() {
  const fineness = computed(() => screen.fineness ?? unmeasured * (window.devicePixelRatio || 1))
  return {
    screen,
    /** Device pixels per millimetre, measured or supposed. */
    fineness,
    /** Device pixels per pixel of a print of `ppi` at which it is as large on the screen as on paper. */
    trueScale: (ppi: number) => (fineness.value * 25.4) / ppi,
  }
}
