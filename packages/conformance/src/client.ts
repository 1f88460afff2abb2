import { Change, Page } from '@axion/contract'
import type { z } from 'zod'

export interface Answer {
  readonly status: number
  readonly headers: Headers
  readonly body: unknown
}

/** Speaks to the bridge under test as docs/bridge.md says, and believes nothing. */
export class Client {
  constructor(
    private readonly url: string,
    private readonly token: string,
  ) {}

  async ask(
    method: string,
    path: string,
    options: {
      readonly body?: unknown
      readonly headers?: Readonly<Record<string, string>>
      readonly token?: string | null
    } = {},
  ): Promise<Answer> {
    const token = options.token === undefined ? this.token : options.token
    const answer = await fetch(this.url.replace(/\/$/, '') + path, {
      method,
      redirect: 'error',
      signal: AbortSignal.timeout(30_000),
      body: options.body === undefined ? null : JSON.stringify(options.body),
      headers: {
        ...(options.body === undefined ? {} : { 'content-type': 'application/json' }),
        ...(token === null ? {} : { authorization: `Bearer ${token}` }),
        ...options.headers,
      },
    })
    const text = await answer.text()
    let body: unknown = text
    try {
      body = JSON.parse(text)
    } catch {
      // Not JSON: each check says what it makes of a text.
    }
    return { status: answer.status, headers: answer.headers, body }
  }

  /** All of a resource past a sequence, page by page. */
  async all(resource: string, after = '0', limit = 200): Promise<z.infer<typeof Change>[]> {
    const items: z.infer<typeof Change>[] = []
    for (let more = true, next = after; more;) {
      const page = Page.parse((await this.ask('GET', `/${resource}?after=${next}&limit=${limit}`)).body)
      items.push(...page.items)
      if (page.more && BigInt(page.next) <= BigInt(next))
        throw new Error(`${resource}: more is promised past ${next}, and the sequence does not move`)
      ;({ next, more } = page)
    }
    return items
  }
}

/** What stands of a resource, by its id. */
export async function valuesOf<T>(client: Client, resource: string): Promise<Map<string, T>> {
  return new Map(
    (await client.all(resource)).filter((item) => !item.removed).map((item) => [item.id, item.value as T]),
  )
}
