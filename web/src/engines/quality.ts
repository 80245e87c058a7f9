import type { Engine } from './useEngines'

/** What lab/judge wrote into an engine's manifest: lines for people, each a measure, its value and what it is set against. */
export interface Figure {
  measure: string
  value: string
  against: string
}

export function figuresOf(engine: Engine): { pictures: string; figures: Figure[] } {
  const quality = engine.quality as { pictures?: string; shelf?: Figure[] }
  return { pictures: quality.pictures ?? '', figures: quality.shelf ?? [] }
}
