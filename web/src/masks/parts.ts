import type { Schemas } from '../api/client'

export type Mask = Schemas['Mask']
export type Part = Mask['parts'][number]
export type By = Part['by']
export type PartOf<Kind extends By> = Extract<Part, { by: Kind }>
export type What = PartOf<'found'>['what']
export type How = Part['how']

/** Part a part is put as: its kind, and for what is found, what is looked for. */
export type Kind = Exclude<By, 'found'> | What

/** In the order in which they are offered. */
export const kinds: { kind: Kind; title: string; what: string }[] = [
  { kind: 'brush', title: 'Paint', what: 'Strokes of a brush' },
  { kind: 'linear', title: 'Linear gradient', what: 'Whole on one side, nothing on the other' },
  { kind: 'radial', title: 'Radial gradient', what: 'Whole in the middle, nothing outside' },
  { kind: 'tones', title: 'Tones', what: 'Between two tones of the original' },
  { kind: 'colours', title: 'Colours', what: 'Like those picked in the original' },
  { kind: 'faces', title: 'Faces', what: 'Those the reading found' },
  { kind: 'people', title: 'People', what: 'Whoever has a face in the picture' },
  { kind: 'subject', title: 'Subject', what: 'What stands out, or what you box in or paint over' },
  { kind: 'background', title: 'Background', what: 'What the subject leaves' },
  { kind: 'sky', title: 'Sky', what: 'From the upper border to where it ends' },
  { kind: 'skin', title: 'Skin', what: 'Colours like those of the faces' },
  { kind: 'focus', title: 'In focus', what: 'What is as sharp as anything in the picture' },
]
const titles = new Map(kinds.map(({ kind, title }) => [kind, title]))

export const ways: { value: How; title: string; what: string }[] = [
  { value: 'add', title: 'and', what: 'Added to the parts above' },
  { value: 'take', title: 'without', what: 'Taken away from the parts above' },
  { value: 'meet', title: 'within', what: 'Only where the parts above are, too' },
]

const usual = { name: '', on: true, how: 'add' as How, inverted: false, strength: 100, feather: 0, refine: 0 }

/** Of faces that were found, those that are surely some, as a mask holds them. */
export const sure = (found: Schemas['FaceReading'][]) =>
  found.filter((face) => face.sure).map(({ eyes, mouth }) => ({ eyes, mouth }))

/** A part as it is put into a mask; faces are told what was found. */
export function newPart(kind: Kind, found: Schemas['FaceReading'][] = []): Part {
  switch (kind) {
    case 'brush':
      return { ...usual, by: 'brush', strokes: [] }
    case 'linear':
      return { ...usual, by: 'linear', start: [0.5, 0.05], end: [0.5, 0.6] }
    case 'radial':
      return { ...usual, by: 'radial', middle: [0.5, 0.5], across: 0.25, down: 0.25, angle: 0, softness: 60 }
    case 'tones':
      return { ...usual, by: 'tones', low: 0.6, high: 1, below: 0.1, above: 0.1 }
    case 'colours':
      return { ...usual, by: 'colours', colours: [], tolerance: 25, softness: 60 }
    case 'faces':
      return { ...usual, by: 'faces', faces: sure(found), feather: 2 }
    default:
      // What was found in a small picture finds its outline in the large one.
      return { ...usual, by: 'found', what: kind, box: null, hints: [], hair: 0, plane: '', refine: 6 }
  }
}

export const kindOfPart = (part: Part): Kind => (part.by === 'found' ? part.what : part.by)

/** Whether strokes on a part say what is to be found, rather than being the part. */
export const hinted = (part: Part | null): part is PartOf<'found'> =>
  part?.by === 'found' && (part.what === 'subject' || part.what === 'background')

/** What a part is called on the line. */
export function partText(part: Part): string {
  if (part.name) return part.name
  const title = titles.get(kindOfPart(part))!
  switch (part.by) {
    case 'brush':
      return `${part.strokes.length} ${part.strokes.length === 1 ? 'stroke' : 'strokes'}`
    case 'tones':
      return `Tones ${Math.round(100 * part.low)} to ${Math.round(100 * part.high)} %`
    case 'colours':
      return `${part.colours.length} ${part.colours.length === 1 ? 'colour' : 'colours'}`
    case 'faces':
      return `${part.faces.length} ${part.faces.length === 1 ? 'face' : 'faces'}`
    default:
      return title
  }
}

/** Whether a part does nothing yet, and what it waits for. */
export function waitsFor(part: Part): string {
  switch (part.by) {
    case 'brush':
      return part.strokes.length ? '' : 'Nothing is painted yet'
    case 'colours':
      return part.colours.length ? '' : 'No colour is picked yet'
    case 'faces':
      return part.faces.length ? '' : 'No face is in it yet'
    case 'found':
      return part.plane ? '' : 'Not found yet'
    default:
      return ''
  }
}

/** A picked colour as a screen shows it. */
export const shade = ([light, a, b]: number[]) => `oklab(${light} ${a} ${b})`

/** A mask in words, for the line. */
export function maskText(mask: Mask | null | undefined): string {
  const parts = (mask?.parts ?? []).filter((part) => part.on)
  return parts.map((part, place) => (place ? `${wayText(part.how)} ${partText(part)}` : partText(part))).join(' ')
}
/** Where a step with a mask works, for the line. */
export function maskLine(mask: Mask): string {
  const text = maskText(mask)
  if (mask.inverted) return text ? `not in: ${text}` : ''
  return `in: ${text || 'nowhere yet'}`
}
const wayText = (how: How) => ways.find((one) => one.value === how)!.title
