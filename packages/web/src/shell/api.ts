/** A refusal of the server: what happened, and how to mend it, in its own words. */
export class Refused extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    readonly says: string,
    readonly mend: string,
  ) {
    super(says)
  }
}

/**
 * Calls the application's API.
 * @throws Refused with the server's problem details, or as if it were one when the server cannot be reached
 */
export async function call<T>(
  method: 'GET' | 'POST' | 'PUT' | 'DELETE',
  path: string,
  body?: unknown,
  signal?: AbortSignal,
): Promise<T> {
  const init: RequestInit = {
    method,
    headers: {
      ...(body === undefined ? {} : { 'content-type': 'application/json' }),
      'x-axion-request': 'page',
    },
  }
  if (body !== undefined) init.body = JSON.stringify(body)
  if (signal) init.signal = signal
  const answer = await fetch(path, init).catch(() => {
    throw new Refused(
      0,
      'AXION_UNREACHABLE',
      'Axion’s server does not answer.',
      'Nothing was changed. Try again in a moment.',
    )
  })
  return readAnswer<T>(answer)
}

async function readAnswer<T>(answer: Response): Promise<T> {
  const read = (await answer.json().catch(() => ({}))) as { title?: string; detail?: string; code?: string }
  if (answer.ok) return read as T
  throw new Refused(
    answer.status,
    read.code ?? '',
    read.title ?? `The server answered ${answer.status}.`,
    read.detail ?? 'Try again.',
  )
}

/** Sends a file as it is. @throws Refused */
export async function sendFile<T>(path: string, file: Blob, type = 'application/octet-stream'): Promise<T> {
  const answer = await fetch(path, {
    method: 'POST',
    headers: { 'content-type': type, 'x-axion-request': 'page' },
    body: file,
  }).catch(() => {
    throw new Refused(
      0,
      'AXION_UNREACHABLE',
      'Axion’s server does not answer.',
      'Nothing was changed. Try again in a moment.',
    )
  })
  return readAnswer<T>(answer)
}

export function asRefused(error: unknown): Refused {
  if (error instanceof Refused) return error
  throw error
}
