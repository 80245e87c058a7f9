import { useQueryClient } from '@tanstack/vue-query'
import { reactive } from 'vue'

import { ApiError, upload } from '../api/client'
import { usePictureChanges } from './usePictures'

export interface Upload {
  key: number
  name: string
  bytes: number
  sent: number
  state: 'waiting' | 'sending' | 'reading' | 'failed'
  message: string
  /** Whether it was refused because it is damaged: it can be taken in as it is, if somebody says so. */
  damaged: boolean
  /** Whether somebody has. */
  anyway: boolean
  stop: AbortController
  file: File
}

const atOnce = 2

/** What a file chooser offers; what a file is, its content tells. */
export const takenFiles = [
  'jpg jpeg png tif tiff webp',
  // Camera raws.
  'mp4 m4v mov mkv webm',
  'dng 3fr arw cr2 cr3 crw dcr erf fff iiq kdc mef mos mrw nef nrw orf pef raf raw rw2 rwl sr2 srf srw x3f',
]
  .flatMap((endings) => endings.split(' ').map((ending) => `.${ending}`))
  .concat('image/*')
  .join(',')

/** Whether a file is a clip, which stills are taken from. */
export const isClip = (file: Pick<File, 'name' | 'type'>) =>
  /\.(mp4|m4v|mov|mkv|webm)$/i.test(file.name) || file.type.startsWith('video/')

/** Files on their way into a job: two at a time, each with its own progress, cancel and reason of failure. */
export function useUploads(jobId: () => string) {
  const uploads = reactive<Upload[]>([])
  const { refresh } = usePictureChanges()
  const client = useQueryClient()
  let nextKey = 0

  function add(files: Iterable<File>) {
    for (const file of files) {
      uploads.push({
        key: nextKey++,
        name: file.name,
        bytes: file.size,
        sent: 0,
        state: 'waiting',
        message: '',
        damaged: false,
        anyway: false,
        stop: new AbortController(),
        file,
      })
    }
    advance()
  }

  function advance() {
    const busy = uploads.filter((one) => one.state === 'sending' || one.state === 'reading').length
    for (const one of uploads.filter((each) => each.state === 'waiting').slice(0, Math.max(0, atOnce - busy)))
      void send(one)
  }

  async function send(one: Upload) {
    one.state = 'sending'
    try {
      const kind = isClip(one.file) ? 'clips' : 'pictures'
      const told = new URLSearchParams({ name: one.name })
      if (kind === 'pictures') told.set('damaged', String(one.anyway))
      await upload<unknown>(
        `/api/jobs/${jobId()}/${kind}?${told}`,
        one.file,
        (done) => {
          one.sent = done
          if (done >= 1) one.state = 'reading'
        },
        one.stop.signal,
      )
      remove(one)
      if (kind === 'clips') void client.invalidateQueries({ queryKey: ['clips', 'of', jobId()] })
      else refresh()
    } catch (error) {
      one.state = 'failed'
      one.message = error instanceof ApiError ? error.message : String(error)
      one.damaged = error instanceof ApiError && error.code === 'damaged'
    }
    advance()
  }

  function remove(one: Upload) {
    const place = uploads.findIndex((each) => each.key === one.key)
    if (place >= 0) uploads.splice(place, 1)
  }

  function cancel(one: Upload) {
    one.stop.abort()
    remove(one)
    advance()
  }

  /** Send it once more; `anyway`, though it is damaged. */
  function again(one: Upload, anyway = false) {
    one.anyway = anyway
    one.stop = new AbortController()
    one.state = 'waiting'
    one.sent = 0
    advance()
  }

  return { uploads, add, cancel, again }
}

/** Every file of a drop, those inside dropped folders too. */
export async function droppedFiles(transfer: DataTransfer): Promise<File[]> {
  const entries = [...transfer.items].map((item) => item.webkitGetAsEntry?.() ?? null)
  if (!entries.some((entry) => entry?.isDirectory)) return [...transfer.files]
  const files: File[] = []
  for (const entry of entries) if (entry) await collect(entry, files)
  return files
}

async function collect(entry: FileSystemEntry, files: File[]): Promise<void> {
  if (entry.isFile) {
    const file = await new Promise<File>((resolve, reject) => (entry as FileSystemFileEntry).file(resolve, reject))
    if (!file.name.startsWith('.')) files.push(file)
    return
  }
  const reader = (entry as FileSystemDirectoryEntry).createReader()
  // A reader gives at most a hundred entries at a time.
  for (;;) {
    const some = await new Promise<FileSystemEntry[]>((resolve, reject) => reader.readEntries(resolve, reject))
    if (!some.length) return
    for (const one of some) await collect(one, files)
  }
}
