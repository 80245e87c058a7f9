import type { Size } from './layer'
import type { Job } from './tileQueue'

/** A picture, decoded. Rejects if it cannot be had or was called off. */
export async function fetched(address: string, signal: AbortSignal): Promise<HTMLImageElement> {
  const response = await fetch(address, { signal })
  if (!response.ok) throw new Error(`${response.status}`)
  const url = URL.createObjectURL(await response.blob())
  try {
    const picture = new Image()
    picture.src = url
    await picture.decode()
    return picture
  } finally {
    URL.revokeObjectURL(url)
  }
}

let parts = 0

/** Where the viewer gets a picture that is there already: the one tile of an image as large as it. */
export function tileSourceOf(picture: HTMLImageElement, { width, height }: Size) {
  // The viewer keeps tiles by their addresses.
  const name = `part:${++parts}`
  return {
    width,
    height,
    getTileWidth: () => width,
    getTileHeight: () => height,
    // Without overlap the viewer stretches tiles by a pixel to hide gaps, and pixels would no longer be true.
    tileOverlap: 1,
    minLevel: 0,
    maxLevel: 0,
    hasTransparency: () => false,
    getTileUrl: () => name,
    downloadTileStart: (job: Job) => job.finish(picture, null, 'image'),
  }
}
