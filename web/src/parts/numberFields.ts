import { onBeforeUnmount, onMounted } from 'vue'

import { calculated, stepOf } from './numbers'

/** A field that takes a number, and leaves what keys and the wheel do in it to the page. */
function numberField(target: EventTarget | null): HTMLInputElement | null {
  if (!(target instanceof HTMLInputElement) || target.readOnly || target.dataset.own !== undefined) return null
  return ['decimal', 'numeric'].includes(target.inputMode) ? target : null
}

function put(field: HTMLInputElement, value: number) {
  const whole = field.inputMode === 'numeric'
  field.value = String(whole ? Math.round(value) : Math.round(value * 1000) / 1000)
  field.dispatchEvent(new Event('input', { bubbles: true }))
}

/** Arrow keys, and the wheel in the field that is being edited, move the number: by 1, with Shift by 10, with Alt by a tenth. */
function move(event: KeyboardEvent | WheelEvent, way: 1 | -1) {
  const field = numberField(event.target)
  if (!field || document.activeElement !== field) return
  const value = calculated(field.value)
  if (Number.isNaN(value)) return
  event.preventDefault()
  put(field, Math.min(Number(field.max || Infinity), Math.max(Number(field.min || 0), value + way * stepOf(event, 1))))
}

/** A sum that was typed becomes its value before anybody reads the field. */
function settle(target: EventTarget | null) {
  const field = numberField(target)
  if (!field || !/[-+*/×x÷:()]/i.test(field.value.trim().replace(/^-/, ''))) return
  const value = calculated(field.value)
  if (!Number.isNaN(value)) put(field, value)
}

/** What each field held before somebody began to type in it. */
const found = new WeakMap<HTMLInputElement, string>()

function entered(event: FocusEvent) {
  const field = numberField(event.target)
  if (field && !found.has(field)) found.set(field, field.value)
}

/** A double click on a field's label brings back its usual value (`data-usual`) or else the one it was found with. */
function reset(event: MouseEvent) {
  const whole = event.target instanceof Element ? event.target.closest('.v-input') : null
  const field = numberField(whole?.querySelector('input') ?? null)
  const label = whole?.querySelector('.v-field-label--floating, label')?.getBoundingClientRect()
  if (!field || !label || event.clientX > label.right || event.clientY > label.bottom) return
  const usual = field.dataset.usual ?? found.get(field)
  if (usual === undefined || usual === field.value) return
  field.value = usual
  field.dispatchEvent(new Event('input', { bubbles: true }))
  // Fields that are read when they are left are read now.
  field.dispatchEvent(new FocusEvent('blur'))
}

function pressed(event: KeyboardEvent) {
  if (event.key === 'ArrowUp') move(event, 1)
  else if (event.key === 'ArrowDown') move(event, -1)
  else if (event.key === 'Enter') settle(event.target)
}
const turned = (event: WheelEvent) => move(event, event.deltaY < 0 ? 1 : -1)
const left = (event: FocusEvent) => settle(event.target)

/** Every number field of the page takes small sums (`2*300`), arrow keys, the wheel and a double click on its label. */
export function useNumberFields() {
  onMounted(() => {
    document.addEventListener('keydown', pressed, true)
    document.addEventListener('wheel', turned, { capture: true, passive: false })
    document.addEventListener('blur', left, true)
    document.addEventListener('focus', entered, true)
    document.addEventListener('dblclick', reset, true)
  })
  onBeforeUnmount(() => {
    document.removeEventListener('keydown', pressed, true)
    document.removeEventListener('wheel', turned, true)
    document.removeEventListener('blur', left, true)
    document.removeEventListener('focus', entered, true)
    document.removeEventListener('dblclick', reset, true)
  })
}
