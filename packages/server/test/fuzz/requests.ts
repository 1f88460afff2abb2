import { uniformInt } from 'pure-rand/distribution/uniformInt'
import { xoroshiro128plus } from 'pure-rand/generator/xoroshiro128plus'

/** A JSON Schema, as far as `/api/docs/json` writes it. */
export interface Schema {
  readonly type?: string
  readonly enum?: readonly unknown[]
  readonly const?: unknown
  readonly anyOf?: readonly Schema[]
  readonly oneOf?: readonly Schema[]
  readonly allOf?: readonly Schema[]
  readonly properties?: Readonly<Record<string, Schema>>
  readonly required?: readonly string[]
  readonly items?: Schema
  readonly minItems?: number
  readonly pattern?: string
  readonly format?: string
  readonly minLength?: number
  readonly maxLength?: number
  readonly minimum?: number
  readonly maximum?: number
  readonly default?: unknown
  readonly additionalProperties?: Schema | boolean
  readonly propertyNames?: Schema
}

export interface Route {
  readonly method: string
  /** As in the docs, with `{name}` for parameters. */
  readonly path: string
  readonly params: readonly {
    readonly name: string
    readonly in: string
    readonly required?: boolean
    readonly schema: Schema
  }[]
  readonly body: Schema | null
  /** What its body comes as. */
  readonly type: string
}

export interface Drawn {
  readonly method: string
  readonly url: string
  readonly body: string | Buffer | null
  readonly type: string
  readonly headers: Readonly<Record<string, string>>
  readonly who: string | null
}

export function routesOf(document: unknown): Route[] {
  const { paths } = document as {
    paths: Record<
      string,
      Record<
        string,
        { parameters?: Route['params']; requestBody?: { content: Record<string, { schema?: Schema }> } }
      >
    >
  }
  return Object.entries(paths).flatMap(([path, methods]) =>
    Object.entries(methods).map(([method, { parameters = [], requestBody }]) => {
      const [[type, { schema = null } = {}] = ['', {}]] = Object.entries(requestBody?.content ?? {})
      return {
        method: method.toUpperCase(),
        path,
        params: parameters,
        body: schema,
        type: type === '' ? 'application/json' : type,
      }
    }),
  )
}

const TEXTS = [
  '',
  ' ',
  'x',
  '0',
  '-1',
  '9'.repeat(40),
  'null',
  '2026-02-30',
  '../../etc/passwd',
  "' or 1=1 --",
  '%',
  '\u0000',
  '\ud800',
  '﷽'.repeat(50),
  'a'.repeat(5000),
  '=cmd()',
  '<script>',
  '🂡',
  '٣',
  'NaN',
  '1e400',
  'toString',
  '__proto__',
  '\r\nx: y',
]
const ODD: readonly unknown[] = [null, true, 0, -1, 1e308, 2 ** 53, [], {}, [[]], { a: { b: {} } }, ...TEXTS]

/** Draws requests, by a seed: some that their route's schema takes, some that are near it, some that are nothing. */
export class Requests {
  private readonly generator: ReturnType<typeof xoroshiro128plus>
  /** What was seen in answers, by the name of its field: ids, revisions and units that there are. */
  private readonly seen = new Map<string, unknown[]>()

  constructor(
    seed: number,
    private readonly people: readonly string[],
  ) {
    this.generator = xoroshiro128plus(seed)
  }

  int(from: number, to: number): number {
    return uniformInt(this.generator, from, to)
  }
  one<T>(of: readonly T[]): T {
    return of[this.int(0, of.length - 1)] as T
  }
  often(percent: number): boolean {
    return this.int(1, 100) <= percent
  }

  know(name: string, ...values: readonly unknown[]): void {
    const known = this.seen.get(name) ?? []
    for (const value of values)
      if (!known.includes(value)) {
        if (known.length < 200) known.push(value)
        else known[this.int(0, 199)] = value
      }
    this.seen.set(name, known)
  }

  /** Learns from an answer what its fields hold. */
  learn(value: unknown, name = '', depth = 0): void {
    if (depth > 6) return
    if (Array.isArray(value)) for (const part of value.slice(0, 30)) this.learn(part, name, depth + 1)
    else if (typeof value === 'object' && value !== null)
      for (const [key, part] of Object.entries(value)) this.learn(part, key, depth + 1)
    else if (name !== '' && ['string', 'number'].includes(typeof value) && String(value).length < 300)
      this.know(name, value)
  }

  /** @param how a request that its schema takes, one with something odd in it, or one of nothing but oddities */
  draw(route: Route, how: 'right' | 'bent' | 'odd'): Drawn {
    const right = how === 'right'
    const value = (name: string, schema: Schema): unknown =>
      right && PINNED[name] !== undefined
        ? PINNED[name]
        : right || (how === 'bent' && this.often(70))
          ? this.from(schema, name, 0)
          : this.one(ODD)
    let url = route.path
    const query = new URLSearchParams()
    for (const { name, in: where, required, schema } of route.params) {
      if (where === 'path')
        url = url.replace(`{${name}}`, encodeURIComponent(wellFormed(String(value(name, schema)))))
      else if (where === 'query' && (required || this.often(40)))
        query.set(name, wellFormed(String(value(name, schema))))
    }
    let body: Drawn['body'] = null
    let type = 'application/json'
    if (!['GET', 'HEAD'].includes(route.method)) {
      if (route.body === null) {
        if (/files|imports$|accounts\/[^/]+\/read$/.test(route.path))
          [body, type] = [this.file(), 'application/octet-stream']
        else if (this.often(50)) body = '{}'
      } else {
        let whole = how === 'odd' && this.often(50) ? this.one(ODD) : this.from(route.body, '', 0)
        if (!right) whole = this.bend(whole)
        body = JSON.stringify(whole) ?? ''
        if (how === 'odd' && this.often(20)) body = body.slice(0, this.int(0, body.length))
      }
      if (how === 'odd' && this.often(10))
        type = this.one(['text/plain', 'application/xml', 'multipart/form-data', ''])
    }
    const search = query.toString()
    return {
      method: route.method,
      url: search === '' ? url : `${url}?${search}`,
      body,
      type,
      headers: how === 'odd' && this.often(5) ? {} : { 'x-axion-request': 'fuzz' },
      who: right ? (this.people[0] ?? null) : this.often(85) ? this.one(this.people) : null,
    }
  }

  private file(): Buffer {
    return Buffer.from(
      this.one([
        'Code,Name\nA,B\n',
        '',
        '\u0000\u0001\u0002',
        'PK\u0003\u0004rubbish',
        '%PDF-1.7\n%%EOF',
        'a'.repeat(3000),
        '"',
        'Code,Name\r\n=1+1,"x',
      ]),
    )
  }

  /** A value with something odd in it here and there. */
  bend(value: unknown): unknown {
    if (this.often(15)) return this.one(ODD)
    if (Array.isArray(value))
      return this.often(10)
        ? Array.from({ length: this.int(0, 300) }, () => value[0])
        : value.map((part) => this.bend(part))
    if (typeof value === 'object' && value !== null) {
      const parts = Object.entries(value).filter(() => !this.often(6))
      return Object.fromEntries([
        ...parts.map(([key, part]) => [key, this.bend(part)] as const),
        ...(this.often(6) ? [[this.one(TEXTS), this.one(ODD)] as const] : []),
      ])
    }
    return value
  }

  /** A value that a schema takes, as well as its words tell. */
  private from(schema: Schema, name: string, depth: number): unknown {
    if (schema.const !== undefined) return schema.const
    if (schema.enum) return this.one(schema.enum)
    const choices = schema.anyOf ?? schema.oneOf
    if (choices) return this.from(this.one(choices), name, depth)
    if (schema.allOf) return Object.assign({}, ...schema.allOf.map((part) => this.from(part, name, depth)))
    switch (schema.type) {
      case 'null':
        return null
      case 'boolean':
        return this.often(50)
      case 'integer':
      case 'number':
        return this.int(Math.max(schema.minimum ?? 0, -1e6), Math.min(schema.maximum ?? 1000, 1e6))
      case 'array':
        return Array.from({ length: Math.max(schema.minItems ?? 0, depth > 5 ? 0 : this.int(0, 3)) }, () =>
          this.from(schema.items ?? {}, name, depth + 1),
        )
      case 'object': {
        const required = new Set(schema.required ?? [])
        const own = Object.entries(schema.properties ?? {}).filter(
          ([key]) => required.has(key) || (depth < 6 && this.often(50)),
        )
        const more =
          typeof schema.additionalProperties === 'object'
            ? [
                [
                  this.text(schema.propertyNames ?? {}, name),
                  this.from(schema.additionalProperties, name, depth + 1),
                ] as const,
              ]
            : []
        return Object.fromEntries([
          ...own.map(([key, part]) => [key, this.from(part, key, depth + 1)] as const),
          ...more,
        ])
      }
      case 'string':
        return this.text(schema, name)
      default:
        return this.one(ODD)
    }
  }

  private text({ pattern, format, minLength = 0, maxLength = 60 }: Schema, name: string): string {
    const known = (this.seen.get(ALIASES[name] ?? name) ?? this.seen.get(name) ?? [])
      .map(String)
      .filter((text) => pattern === undefined || new RegExp(pattern, 'u').test(text))
    if (known.length > 0 && this.often(90)) return this.one(known)
    if (format === 'uuid') return '00000000-0000-4000-8000-000000000000'
    if (format === 'email') return `fuzz${this.int(1, 30)}@example.org`
    if (format === 'uri') return 'http://127.0.0.1:1/x'
    const shaped = SHAPED.find((text) => pattern !== undefined && new RegExp(pattern, 'u').test(text))
    if (shaped !== undefined) return shaped
    return 'fuzz'.repeat(20).slice(0, Math.max(minLength, Math.min(maxLength, this.int(1, 12))))
  }
}

/** What there is one of, so that most of what is right finds something. */
const PINNED: Readonly<Record<string, string>> = { entity: 'larkspur', month: '2026-09' }
/** What a parameter is called in answers. */
const ALIASES: Readonly<Record<string, string>> = {
  system: 'systemId',
  units: 'unit',
  systemIds: 'systemId',
  rows: 'id',
  target: 'systemId',
}
/** Texts for patterns that nothing seen fits. */
const SHAPED = [
  '2026-09',
  '2026-09-15',
  '1',
  '1.00',
  'USD',
  'XA',
  'WN-PLX',
  'en-US',
  '09:00',
  'fuzz',
  'XA-WN',
  '2026-09-15T10:00:00Z',
  '0.5',
]

function wellFormed(text: string): string {
  return text.toWellFormed()
}
