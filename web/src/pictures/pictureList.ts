import type { Delivery } from '../deliveries/queries'
import type { Picture } from './queries'

export type Order = 'added' | 'name' | 'size' | 'open'
export const orders: { value: Order; title: string }[] = [
  { value: 'added', title: 'As they were added' },
  { value: 'name', title: 'By name' },
  { value: 'size', title: 'Smallest first' },
  { value: 'open', title: 'Not delivered first' },
]

/** What has become of a picture: how many of its files were made, are on their way, and have failed. */
export interface Progress {
  made: number
  under: number
  failed: number
}
export function progressOf(picture: Picture, deliveries: Delivery[]): Progress {
  const own = deliveries.filter((one) => one.picture_id === picture.id)
  const count = (...states: Delivery['state'][]) => own.filter((one) => states.includes(one.state)).length
  return { made: count('done'), under: count('queued', 'running', 'paused'), failed: count('failed') }
}
export function progressText({ made, under, failed }: Progress): string {
  const files = (count: number) => `${count} ${count === 1 ? 'file' : 'files'}`
  return (
    [
      ...(made ? [`${files(made)} delivered`] : []),
      ...(under ? [`${files(under)} being made`] : []),
      ...(failed ? [`${files(failed)} failed`] : []),
    ].join(', ') || 'nothing delivered yet'
  )
}

/** What tells pictures of one name apart: which of them it is, by the order in which they came; empty for the others. */
export function namesakes(pictures: Picture[]): Map<string, string> {
  const same = new Map<string, Picture[]>()
  for (const one of pictures) same.set(one.name, [...(same.get(one.name) ?? []), one])
  const told = new Map<string, string>()
  for (const group of same.values()) {
    if (group.length < 2) continue
    group.forEach((one, index) => {
      const first = group.findIndex((other) => other.sha256 === one.sha256)
      told.set(one.id, `${index + 1} of ${group.length}${first < index ? `, the same file as ${first + 1}` : ''}`)
    })
  }
  return told
}

/** The pictures whose names or readings hold every word of `search`, in that order. */
export function listed(
  pictures: Picture[],
  search: string,
  order: Order,
  told: (picture: Picture) => string,
  progress: (picture: Picture) => Progress,
): Picture[] {
  const words = search.toLowerCase().split(/\s+/).filter(Boolean)
  const found = pictures.filter((one) => {
    const text = `${one.name} ${told(one)}`.toLowerCase()
    return words.every((word) => text.includes(word))
  })
  const pixels = ({ facts }: Picture) => facts.width * facts.height
  switch (order) {
    case 'added':
      return found
    case 'name':
      return found.toSorted((a, b) => a.name.localeCompare(b.name, undefined, { numeric: true }))
    case 'size':
      return found.toSorted((a, b) => pixels(a) - pixels(b))
    case 'open':
      return found.toSorted((a, b) => Math.sign(progress(a).made) - Math.sign(progress(b).made))
  }
}
