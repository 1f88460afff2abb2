/** What was read of an answer; `broken`: it cannot be told to its end. */
export type Body =
  | { readonly kind: 'json'; readonly value: unknown }
  | { readonly kind: 'text'; readonly text: string }
  | Broken
interface Broken {
  readonly kind: 'broken'
  readonly problem: string
}

/** The most bytes that an answer may have once it is unpacked. */
export const MOST_BYTES = 32 * 1024 * 1024

/**
 * Reads an answer's body as a stream, to its end or to the limit; one in another charset than UTF-8 is not read. The request's time limit
 * holds for it too.
 * @throws what the connection threw, where it was lost on the way
 */
export async function bytesOf(
  answer: Response,
  mostBytes = MOST_BYTES,
): Promise<Broken | { readonly kind: 'bytes'; readonly bytes: Buffer }> {
  const charset = /charset\s*=\s*"?([\w-]+)/i.exec(answer.headers.get('content-type') ?? '')?.[1]
  if (charset !== undefined && !/^utf-?8$/i.test(charset)) {
    await answer.body?.cancel()
    return { kind: 'broken', problem: `it is in ${charset}, and not in UTF-8` }
  }
  const pieces: Uint8Array[] = []
  let bytes = 0
  for await (const piece of answer.body ?? []) {
    bytes += piece.length
    // Leaving the loop ends the stream.
    if (bytes > mostBytes) return { kind: 'broken', problem: `it is longer than ${mostBytes} bytes` }
    pieces.push(piece)
  }
  return { kind: 'bytes', bytes: Buffer.concat(pieces) }
}

/** The bytes of a body as JSON; not JSON is no answer of the contract, and whoever checks its shape says so. */
export function bodyOf(read: Awaited<ReturnType<typeof bytesOf>>): Body {
  if (read.kind === 'broken') return read
  let text: string
  try {
    text = new TextDecoder('utf-8', { fatal: true }).decode(read.bytes)
  } catch {
    return { kind: 'broken', problem: 'it is not in UTF-8' }
  }
  try {
    return { kind: 'json', value: JSON.parse(text) }
  } catch {
    return { kind: 'text', text }
  }
}
