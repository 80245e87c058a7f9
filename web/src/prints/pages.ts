/** Pages and slides a picture can be placed on; millimetres, upright or as a slide lies. */
export const pages = [
  { value: 'a4', title: 'A4', width: 210, height: 297 },
  { value: 'a3', title: 'A3', width: 297, height: 420 },
  { value: 'a5', title: 'A5', width: 148, height: 210 },
  { value: 'letter', title: 'Letter', width: 215.9, height: 279.4 },
  { value: 'square', title: 'Square, 21 cm', width: 210, height: 210 },
  { value: 'slide', title: 'Slide 16:9', width: 338.7, height: 190.5 },
  { value: 'slide43', title: 'Slide 4:3', width: 254, height: 190.5 },
] as const
export type PageName = (typeof pages)[number]['value'] | 'own'
