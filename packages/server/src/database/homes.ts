import type { Database } from './connection.ts'

/** A database beside the directory. */
export interface Beside {
  readonly name: string
  readonly database: Database
  /** Under the role that alone lets people in. */
  readonly keys: Database
}

/** So long a person is known in a database beside the directory, and introduced again well before. */
const KNOWN_SECONDS = 900
const AGAIN_MS = 300_000
/** A database that did not answer is not asked again before so long: a board of many entities does not wait for each. */
const LEFT_ALONE_MS = 2000

/**
 * Where the books of each legal entity are: in the directory, which knows people, their sessions and who belongs to what, or in a database
 * beside it. A database beside knows nobody by itself: whoever works there is introduced with the session that the directory holds of them, so
 * that the trail finds the name behind it there as here.
 */
export class Homes {
  private readonly beside: ReadonlyMap<string, Beside>
  private readonly known = new Map<string, string | null>()
  private readonly introduced = new Map<string, number>()
  private readonly silent = new Map<string, number>()

  constructor(
    private readonly directory: Database,
    beside: readonly Beside[],
  ) {
    this.beside = new Map(beside.map((one) => [one.name, one]))
  }

  /** @returns null where it is the directory */
  async of(entityId: string): Promise<Beside | null> {
    const known = this.known.get(entityId)
    const name = known === undefined ? await this.ask(entityId) : known
    if (name === null) return null
    const found = this.beside.get(name)
    if (!found)
      throw new Error(`${entityId} lives in the database ${name}, which AXION_DATABASES does not name`)
    return found
  }

  private async ask(entityId: string): Promise<string | null> {
    const row = await this.directory('entity_home').where({ entity_id: entityId }).first('lives_in')
    // Who there is not, is not kept: it may be founded.
    if (row) this.known.set(entityId, row.lives_in)
    return row?.lives_in ?? null
  }

  /** What was known of an entity is asked for again: it is not where it was. */
  forget(entityId: string): void {
    this.known.delete(entityId)
  }

  noteSilent({ name }: Beside): void {
    this.silent.set(name, performance.now() + LEFT_ALONE_MS)
  }

  isSilent({ name }: Beside): boolean {
    return (this.silent.get(name) ?? 0) > performance.now()
  }

  async introduce({ name, keys }: Beside, token: string | undefined): Promise<void> {
    if (!token) return
    const key = `${name} ${token}`
    const now = performance.now()
    if ((this.introduced.get(key) ?? 0) > now) return
    const session = (await this.directory('session')
      .join('person', 'person.person_id', 'session.person_id')
      .whereRaw(`token_hash = encode(sha256(convert_to(?, 'UTF8')), 'hex') and expires_at > now()`, [token])
      .first('token_hash', 'person.person_id', 'email', 'name')) as
      { token_hash: string; person_id: string; email: string; name: string } | undefined
    if (!session) return
    await keys.raw('select introduce(?, ?, ?, ?, ?)', [
      session.token_hash,
      session.person_id,
      session.email,
      session.name,
      KNOWN_SECONDS,
    ])
    for (const [one, until] of this.introduced) if (until <= now) this.introduced.delete(one)
    this.introduced.set(key, now + AGAIN_MS)
  }
}
