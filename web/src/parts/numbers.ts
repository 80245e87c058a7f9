/**
 * The value of what somebody typed into a number field: a number, or a small sum of numbers; NaN if it is neither.
 *
 * @example
 * calculated('2*300') // 600
 * calculated('(10 + 2,5) / 2') // 6.25
 */
export function calculated(text: string): number {
  const parts = text.replace(/,/g, '.').replace(/[×x]/gi, '*').replace(/[÷:]/g, '/').replace(/−/g, '-')
  const tokens = parts.match(/\d+\.?\d*|\.\d+|[-+*/()]|\S/g) ?? []
  let at = 0
  const next = (...wanted: string[]) => (wanted.includes(tokens[at] ?? '') ? tokens[at++] : undefined)

  function sum(): number {
    let value = product()
    for (let sign = next('+', '-'); sign; sign = next('+', '-')) value += sign === '+' ? product() : -product()
    return value
  }
  function product(): number {
    let value = single()
    for (let sign = next('*', '/'); sign; sign = next('*', '/'))
      value = sign === '*' ? value * single() : value / single()
    return value
  }
  function single(): number {
    if (next('-')) return -single()
    if (next('(')) {
      const value = sum()
      return next(')') ? value : NaN
    }
    const token = tokens[at++]
    return token === undefined || !/^[\d.]+$/.test(token) ? NaN : Number(token)
  }
  const value = sum()
  return at === tokens.length && Number.isFinite(value) ? value : NaN
}

/** How far a key or a turn of the wheel moves a number: by its step, ten times that with Shift, a tenth with Alt. */
export function stepOf(event: { shiftKey: boolean; altKey: boolean }, step: number): number {
  return event.shiftKey ? 10 * step : event.altKey ? step / 10 : step
}
