import { queryOptions } from '@tanstack/vue-query'

import { answer, server } from '../api/client'

/** What is measured for the controls of steps. */
export const stepQueries = {
  /** How far a result's tones and colours are from its source's; `chain` changes with the take. */
  colourShift: (takeId: string, chain: string | undefined) =>
    queryOptions({
      queryKey: ['colour-shift', takeId, chain],
      queryFn: ({ signal }) =>
        answer(server.GET('/api/takes/{take_id}/colour-shift', { params: { path: { take_id: takeId } }, signal })),
      staleTime: Infinity,
    }),
  /** How far each face of a step departs from the source; `chain` changes with the take. */
  departures: (takeId: string, index: number, chain: string | undefined) =>
    queryOptions({
      queryKey: ['departures', takeId, index, chain],
      queryFn: ({ signal }) =>
        answer(
          server.GET('/api/takes/{take_id}/steps/{index}/departures', {
            params: { path: { take_id: takeId, index } },
            signal,
          }),
        ),
      staleTime: Infinity,
    }),
  /** The faces of a picture that can lend their detail. */
  lending: (pictureId: string) =>
    queryOptions({
      queryKey: ['lending', pictureId],
      queryFn: ({ signal }) =>
        answer(server.GET('/api/pictures/{picture_id}/faces', { params: { path: { picture_id: pictureId } }, signal })),
    }),
  /** Profiles of lenses for a camera raw whose names hold some words. */
  lenses: (pictureId: string, text: string) =>
    queryOptions({
      queryKey: ['lenses', pictureId, text],
      queryFn: ({ signal }) =>
        answer(
          server.GET('/api/pictures/{picture_id}/lenses', {
            params: { path: { picture_id: pictureId }, query: { text } },
            signal,
          }),
        ),
      staleTime: Infinity,
    }),
  /** How the texture that a step is given repeats; `before` changes with what stands before it. */
  repeats: (takeId: string, index: number, before: string) =>
    queryOptions({
      queryKey: ['repeats', takeId, index, before],
      queryFn: ({ signal }) =>
        answer(
          server.GET('/api/takes/{take_id}/steps/{index}/repeats', {
            params: { path: { take_id: takeId, index } },
            signal,
          }),
        ),
      staleTime: Infinity,
    }),
  /** The look-up tables on the shelf. */
  tables: () =>
    queryOptions({
      queryKey: ['tables'],
      queryFn: ({ signal }) => answer(server.GET('/api/tables', { signal })),
    }),
  /** The tones that a step is given; `before` changes with what stands before it. */
  tones: (takeId: string, index: number, before: string) =>
    queryOptions({
      queryKey: ['tones', takeId, index, before],
      queryFn: ({ signal }) =>
        answer(
          server.GET('/api/takes/{take_id}/steps/{index}/tones', {
            params: { path: { take_id: takeId, index } },
            signal,
          }),
        ),
      staleTime: Infinity,
    }),
}
