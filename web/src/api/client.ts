import createClient, { type Middleware } from 'openapi-fetch'

import type { components, paths } from '../generated/api'

export type Schemas = components['schemas']

/** An answer of the server that is not what was asked for; `message` is a sentence for the person, `code` one for programs. */
export class ApiError extends Error {
  constructor(
    message: string,
    readonly status: number,
    readonly code = '',
  ) {
    super(message)
  }
}

const unreachable = 'The server does not answer. Nothing is lost; it will be tried again.'

function csrfToken(): string {
  return /(?:^|; )csrftoken=([^;]+)/.exec(document.cookie)?.[1] ?? ''
}

async function refusal(response: Response): Promise<ApiError> {
  const told = parsed(await response.text())
  const otherwise = `The server could not do this (${response.status}); try again in a moment.`
  return new ApiError(told?.message ?? otherwise, response.status, told?.code)
}

const manners: Middleware = {
  onRequest({ request }) {
    if (request.method !== 'GET') request.headers.set('X-CSRFToken', csrfToken())
    return request
  },
  async onResponse({ response }) {
    if (!response.ok) throw await refusal(response)
    return response
  },
  onError({ error }) {
    // Called off by whoever asked.
    if (error instanceof DOMException && error.name === 'AbortError') return error
    return error instanceof ApiError ? error : new ApiError(unreachable, 0)
  },
}

/** The server, typed by its own schema. What it refuses is thrown as an ApiError. */
export const server = createClient<paths>({ fetch: (request) => fetch(request) })
server.use(manners)

/** What the server answered. */
export async function answer<T>(sent: Promise<{ data?: T }>): Promise<T> {
  return (await sent).data as T
}

async function post(path: string, body: BodyInit, headers: HeadersInit = {}, signal?: AbortSignal): Promise<Response> {
  const request = { method: 'POST', body, signal, headers: { ...headers, 'X-CSRFToken': csrfToken() } }
  const response = await fetch(path, request).catch((error: unknown) => {
    throw error instanceof DOMException && error.name === 'AbortError' ? error : new ApiError(unreachable, 0)
  })
  if (!response.ok) throw await refusal(response)
  return response
}

/** Post a question whose answer is a picture. */
export async function picture(path: string, body: unknown, signal: AbortSignal): Promise<Blob> {
  return (await post(path, JSON.stringify(body), { 'Content-Type': 'application/json' }, signal)).blob()
}

/** Post a file as the body of a request. */
export async function sendBytes<T>(path: string, file: File): Promise<T> {
  return (await (await post(path, file)).json()) as T
}

/** Post several files under their names. */
export async function sendForm<T>(path: string, files: Record<string, File>): Promise<T> {
  const form = new FormData()
  for (const [name, file] of Object.entries(files)) form.append(name, file)
  return (await (await post(path, form)).json()) as T
}

/** Send a file's bytes as they are, telling how far it is (0..1). */
export function upload<T>(path: string, file: File, progress: (done: number) => void, signal: AbortSignal): Promise<T> {
  return new Promise((resolve, reject) => {
    const sending = new XMLHttpRequest()
    sending.open('POST', path)
    sending.setRequestHeader('X-CSRFToken', csrfToken())
    sending.setRequestHeader('Content-Type', 'application/octet-stream')
    sending.upload.onprogress = (event) => progress(event.total ? event.loaded / event.total : 0)
    sending.onload = () => {
      if (sending.status === 201) return resolve(JSON.parse(sending.responseText) as T)
      const told = parsed(sending.responseText)
      const otherwise = `The server could not take ${file.name} (${sending.status}).`
      reject(new ApiError(told?.message ?? otherwise, sending.status, told?.code))
    }
    sending.onerror = () => reject(new ApiError(unreachable, 0))
    sending.onabort = () => reject(new ApiError(`${file.name} was not added: cancelled.`, 0))
    signal.addEventListener('abort', () => sending.abort())
    sending.send(file)
  })
}

function parsed(text: string): { message?: string; code?: string } | undefined {
  try {
    return JSON.parse(text) as { message?: string; code?: string }
  } catch {
    return undefined
  }
}
