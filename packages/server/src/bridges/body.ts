/** What was read of an answer; `broken`: it cannot be told to its end. */
export type Body =
  | { readonly kind: 'json'; readonly value: unknown }
  | { readonly kind: 'text'; readonly text: string }
  | { readonly kind: 'broken'; readonly problem: string }

/** The most bytes that an answer may have once it is unpacked. */
export const MOST_BYTES = 32 * 1024 * 1024

/**
 * Reads an answer's body as a stream, to its end or to the limit, as UTF-8 alone. The request's time limit holds for it too.
 * @throws what the connection threw, where it was lost on the way
 */
export async function bodyOf(answer: Response, mostBytes = MOST_BYTES): Promise<Body> {
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
  try {
    return jsonOr(new TextDecoder('utf-8', { fatal: true }).decode(Buffer.concat(pieces)))
  } catch {
    return { kind: 'broken', problem: 'it is not in UTF-8' }
  }
}

/** Not JSON is no answer of the contract; whoever checks its shape says so. */
function jsonOr(text: string): Body {
  try {
    return { kind: 'json', value: JSON.parse(text) }
  } catch {
    return { kind: 'text', text }
  }
}
