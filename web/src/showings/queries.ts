import { queryOptions } from '@tanstack/vue-query'

import { answer, server, type Schemas } from '../api/client'

export type Showing = Schemas['ShowingOut']
export type ShownPicture = Schemas['ShownPictureOut']
export type ShowingIn = Schemas['ShowingIn']
export type ClientNote = Schemas['PlacedNoteOut']

/** While something is made it is looked often, else now and then: clients answer whenever they like. */
const soonMilliseconds = 1500
const laterMilliseconds = 20_000

/** What is asked of the server about showings. */
export const showingQueries = {
  /** Those of a job, the newest first. */
  all: (jobId: string) =>
    queryOptions({
      queryKey: ['showings', jobId],
      queryFn: ({ signal }) =>
        answer(server.GET('/api/jobs/{job_id}/showings', { params: { path: { job_id: jobId } }, signal })),
      refetchInterval: ({ state }) =>
        state.data?.some((one) => one.pictures.some(({ state }) => state === 'queued' || state === 'running'))
          ? soonMilliseconds
          : laterMilliseconds,
    }),
  /** What clients noted on a picture, in every round. */
  notes: (pictureId: string) =>
    queryOptions({
      queryKey: ['client-notes', pictureId],
      queryFn: ({ signal }) =>
        answer(
          server.GET('/api/pictures/{picture_id}/client-notes', {
            params: { path: { picture_id: pictureId } },
            signal,
          }),
        ),
      refetchInterval: laterMilliseconds,
    }),
}
