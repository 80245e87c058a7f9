/** Numbers as people read them, always with their unit. */

export function megapixels(width: number, height: number): string {
  const value = (width * height) / 1e6
  return `${value < 10 ? value.toFixed(2) : value < 100 ? value.toFixed(1) : Math.round(value)} MP`
}

export function fileSize(bytes: number): string {
  if (bytes < 1000) return `${bytes} B`
  if (bytes < 1e6) return `${(bytes / 1e3).toFixed(0)} kB`
  if (bytes < 1e9) return `${(bytes / 1e6).toFixed(bytes < 1e7 ? 1 : 0)} MB`
  return `${(bytes / 1e9).toFixed(2)} GB`
}

export function duration(seconds: number): string {
  if (seconds < 1) return 'under 1 s'
  if (seconds < 90) return `${Math.round(seconds)} s`
  if (seconds < 5400) return `${Math.round(seconds / 60)} min`
  return `${(seconds / 3600).toFixed(1)} h`
}

/** A time that is expected, as it stands in a sentence. */
export function about(seconds: number): string {
  return seconds < 1 ? duration(seconds) : `about ${duration(seconds)}`
}

export function pixelSize(size: { width: number; height: number }): string {
  return `${size.width} × ${size.height}`
}

export function length(value: number): string {
  return value >= 100 ? value.toFixed(0) : value.toFixed(1).replace(/\.0$/, '')
}

export function number(value: number, digits = 2): string {
  return Number(value.toFixed(digits)).toString()
}

/** A number with its sign, plus or minus. */
export function signed(value: number, digits = 2): string {
  return value > 0 ? `+${number(value, digits)}` : number(value, digits)
}
