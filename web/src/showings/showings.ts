import type { Picture } from '../pictures/queries'
import type { Showing, ShowingIn, ShownPicture } from './queries'

/** A picture of the job in the form of a showing: which take is shown, if it is. */
export interface Choice {
  picture: Picture
  takeId: string
  wanted: boolean
}

/** What a showing begins with: every picture by its chosen take, or its first; those of the round before, if there is one. */
export function choicesOf(pictures: Picture[], before: Showing | null): Choice[] {
  const shown = new Set(before?.pictures.map(({ picture_id }) => picture_id))
  return pictures.flatMap((picture) => {
    const take = picture.takes.find(({ chosen }) => chosen) ?? picture.takes[0]
    return take ? [{ picture, takeId: take.id, wanted: before ? shown.has(picture.id) : true }] : []
  })
}

/** The pictures that are shown, as the server is told. */
export function picturesOf(choices: Choice[]): ShowingIn['pictures'] {
  return choices
    .filter(({ wanted }) => wanted)
    .map(({ picture, takeId }) => ({ picture_id: picture.id, take_id: takeId }))
}

/** What has become of a showing, in a few words. */
export function stateText(showing: Showing, now: number): string {
  if (showing.followed) return 'has a next round'
  if (showing.revoked) return 'closed'
  if (new Date(showing.expires).getTime() <= now) return 'over'
  const making = showing.pictures.filter(({ state }) => state === 'queued' || state === 'running').length
  if (making) return `being made: ${showing.pictures.length - making} of ${showing.pictures.length} pictures`
  const failed = showing.pictures.filter(({ state }) => state === 'failed').length
  if (failed) return `${failed} of ${showing.pictures.length} could not be made`
  return showing.seen ? 'looked at' : 'not looked at yet'
}

/** What the client said of a picture, in a word. */
export function verdictText({ answer }: Pick<ShownPicture, 'answer'>): string {
  if (!answer) return 'no answer yet'
  return answer.verdict === 'approved' ? `approved by ${answer.name}` : `${answer.name} asks for changes`
}

/** What the client said last of a picture, in the latest round it is in; null if it was never shown. */
export function latestOf(showings: Showing[], pictureId: string): ShownPicture | null {
  for (const showing of showings) {
    const shown = showing.pictures.find(({ picture_id }) => picture_id === pictureId)
    if (shown) return shown
  }
  return null
}

/** What the client said of each picture in the latest round it was shown in, by its id. */
export function saidOf(showings: Showing[], pictures: Picture[]): Map<string, string> {
  const shown = pictures.map(({ id }) => [id, latestOf(showings, id)] as const)
  return new Map(shown.flatMap(([id, one]) => (one?.answer ? [[id, verdictText(one)]] : [])))
}
