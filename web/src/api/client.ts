import type { components } from '../generated/api'

export type Schemas = components['schemas']

/** An answer of the server that is not what was asked for; `message` is a sentence for the person. */
export class ApiError extends Error {
  constructor(
    message: string,
    readonly status: number,
  ) {
    super(message)
  }
}

const unreachable = 'The server does not answer. Nothing is lost; it will be tried again.'

function csrfToken(): string {
  return /(?:^|; )csrftoken=([^;]+)/.exec(document.cookie)?.[1] ?? ''
}

async function sentence(response: Response): Promise<string> {
  try {
    const body = (await response.json()) as { message?: string }
    if (body.message) return body.message
  } catch {
    // not JSON: fall through to the general sentence
  }
  return `The server could not do this (${response.status}); try again in a moment.`
}

async function send(method: string, path: string, body?: unknown, signal?: AbortSignal): Promise<Response> {
  const asItIs = body instanceof FormData || body instanceof Blob
  let response: Response
  try {
    response = await fetch(`/api${path}`, {
      method,
      signal,
      headers: {
        ...(body === undefined || asItIs ? {} : { 'Content-Type': 'application/json' }),
        ...(method === 'GET' ? {} : { 'X-CSRFToken': csrfToken() }),
      },
      body: body === undefined || asItIs ? body : JSON.stringify(body),
    })
  } catch (error) {
    if (error instanceof DOMException && error.name === 'AbortError') throw error
    throw new ApiError(unreachable, 0)
  }
  if (!response.ok) throw new ApiError(await sentence(response), response.status)
  return response
}

async function request<T>(method: string, path: string, body?: unknown, signal?: AbortSignal): Promise<T> {
  const response = await send(method, path, body, signal)
  return (response.status === 204 ? undefined : await response.json()) as T
}

export const api = {
  get: <T>(path: string, signal?: AbortSignal) => request<T>('GET', path, undefined, signal),
  post: <T>(path: string, body?: unknown) => request<T>('POST', path, body),
  put: <T>(path: string, body: unknown) => request<T>('PUT', path, body),
  patch: <T>(path: string, body: unknown) => request<T>('PATCH', path, body),
  delete: <T>(path: string) => request<T>('DELETE', path),
}

/** Post a question whose answer is a picture. */
export async function picture(path: string, body: unknown, signal: AbortSignal): Promise<Blob> {
  return (await send('POST', path, body, signal)).blob()
}

/** Post a file as the body of a request. */
export async function sendBytes<T>(path: string, file: File): Promise<T> {
  return (await (await send('POST', path, file)).json()) as T
}

/** Post several files under their names. */
export function sendForm<T>(path: string, files: Record<string, File>): Promise<T> {
  const form = new FormData()
  for (const [name, file] of Object.entries(files)) form.append(name, file)
  return request<T>('POST', path, form)
}

/** Send a file's bytes as they are, telling how far it is (0..1). */
export function upload<T>(path: string, file: File, progress: (done: number) => void, signal: AbortSignal): Promise<T> {
  return new Promise((resolve, reject) => {
    const sending = new XMLHttpRequest()
    sending.open('POST', `/api${path}`)
    sending.setRequestHeader('X-CSRFToken', csrfToken())
    sending.setRequestHeader('Content-Type', 'application/octet-stream')
    sending.upload.onprogress = (event) => progress(event.total ? event.loaded / event.total : 0)
    sending.onload = () => {
      const answer = parsed(sending.responseText)
      if (sending.status === 201) resolve(answer as T)
      else reject(new ApiError(answer?.message ?? `The server could not take ${file.name} (${sending.status}).`, sending.status))
    }
    sending.onerror = () => reject(new ApiError(unreachable, 0))
    sending.onabort = () => reject(new ApiError(`${file.name} was not added: cancelled.`, 0))
    signal.addEventListener('abort', () => sending.abort())
    sending.send(file)
  })
}

function parsed(text: string): { message?: string } | undefined {
  try {
    return JSON.parse(text) as { message?: string }
  } catch {
    return undefined
  }
}
