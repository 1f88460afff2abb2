import type { FastifyInstance, FastifyReply } from 'fastify'
import type { StandinOptions } from '../ledger/ledger.ts'
import { bridge } from '../shared/bridge.ts'
import {
  escape,
  faultsSection,
  field,
  finder,
  form,
  foundAmong,
  page,
  select,
  table,
} from '../shared/desk.ts'
import { FAULTS, Faults, type FaultName } from '../shared/faults.ts'
import { Refusal } from '../shared/problems.ts'
import { setUp } from '../shared/setUp.ts'
import type { Store } from '../shared/store.ts'

export type SourceRole = 'pos' | 'commerce' | 'purchasing' | 'payments' | 'bank'

interface Kind {
  readonly product: string
  readonly resources: readonly string[]
  readonly takes: readonly string[]
}

/** The systems beside ledger and billing: each keeps its own set-up and records, and computes nothing for anybody else. */
const KINDS: Readonly<Record<SourceRole, Kind>> = {
  pos: {
    product: 'Gatepost Till',
    resources: ['agencies', 'tax-rates', 'items', 'payment-methods', 'locations', 'documents'],
    takes: ['items', 'locations', 'payment-methods'],
  },
  commerce: {
    product: 'Meadow Storefront',
    resources: [
      'agencies',
      'tax-rates',
      'items',
      'item-tax-codes',
      'parties',
      'payment-methods',
      'locations',
      'documents',
    ],
    takes: ['tax-rates', 'items', 'parties', 'payment-methods', 'locations'],
  },
  purchasing: {
    product: 'Hedgerow Buying',
    resources: ['agencies', 'tax-rates', 'parties', 'payment-methods', 'documents'],
    takes: [],
  },
  payments: { product: 'Brook Settlements', resources: ['payment-methods', 'settlements'], takes: [] },
  bank: { product: 'Fallow Bank', resources: ['bank-lines'], takes: [] },
}

interface SourceSettings {
  readonly company: { readonly id: string; readonly name: string }
  readonly baseCurrency: string
  readonly currencies: readonly string[]
  readonly timeZone: string
  readonly taxEnabled: boolean
  readonly computesTax: boolean
  readonly defaultItemTaxCode: string | null
  readonly newPartiesTaxable: boolean | null
  readonly rounding: object | null
}
const DEFAULTS: SourceSettings = {
  company: { id: 'none', name: 'Nobody yet' },
  baseCurrency: 'USD',
  currencies: ['USD'],
  timeZone: 'UTC',
  taxEnabled: true,
  computesTax: true,
  defaultItemTaxCode: null,
  newPartiesTaxable: null,
  rounding: null,
}

/** A stand-in of a role: its bridge under /bridge, its desk page, on which every plain field of what it holds can be set, under /desk. */
export function source(role: SourceRole): (app: FastifyInstance, options: StandinOptions) => void {
  const { product, resources, takes } = KINDS[role]
  return (app, { store, token, address }) => {
    const faults = new Faults(store)
    const base = new URL(address).pathname
    const settings = async (): Promise<SourceSettings> => ({
      ...DEFAULTS,
      ...(await store.setting<Partial<SourceSettings>>('settings', {})),
    })

    void app.register(
      async (scope) => {
        bridge(
          scope,
          {
            store,
            token,
            resources,
            about: async () => ({
              contract: '1',
              role,
              product,
              company: (await settings()).company,
              webAddress: `${address}/desk`,
              resources,
              takes,
              taxComputation: null,
              idempotency: null,
              findsByExternalId: false,
              longestLateCommitSeconds: null,
              voids: false,
            }),
            settings: async () => {
              const { company: _company, ...rest } = await settings()
              return {
                ...rest,
                keepsDocumentNumbers: true,
                pairsCreditsItself: false,
                usesAccountNumbers: false,
                lockedThrough: null,
              }
            },
          },
          faults,
        )
        setUp(scope, store, takes)
      },
      { prefix: '/bridge' },
    )

    app.get<{ Querystring: { find?: string } }>('/desk', async (request, reply) => {
      const { find = '' } = request.query
      const sections = await Promise.all(
        resources.map(async (resource) =>
          objectsSection(
            base,
            resource,
            foundAmong(
              await store.all<Held>(resource),
              find,
              ({ id, value }) => `${id} ${JSON.stringify(value)}`,
            ),
          ),
        ),
      )
      return reply
        .type('text/html')
        .send(
          page(
            product,
            (await settings()).company.name,
            [
              finder(`${base}/desk`, find, 'anything'),
              settingsSection(base, await settings()),
              ...sections,
              faultsSection(base, await faults.switches()),
            ].join(''),
          ),
        )
    })
    app.post<{ Body: Readonly<Record<string, string>> & { readonly resource: string; readonly id: string } }>(
      '/desk/objects',
      async (request, reply) => {
        await setFields(store, resources, request.body)
        return back(reply, base, request.body.resource)
      },
    )
    app.post<{ Body: { defaultItemTaxCode: string; newPartiesTaxable: string } }>(
      '/desk/settings',
      async (request, reply) => {
        const { defaultItemTaxCode, newPartiesTaxable } = request.body
        await store.setSetting('settings', {
          ...(await settings()),
          defaultItemTaxCode: defaultItemTaxCode.trim() || null,
          newPartiesTaxable: newPartiesTaxable === '' ? null : newPartiesTaxable === 'yes',
        })
        return back(reply, base, 'settings')
      },
    )
    app.post<{ Body: { resource: string; id: string } }>('/desk/remove', async (request, reply) => {
      const { resource, id } = request.body
      if (!resources.includes(resource))
        throw new Refusal(404, 'unknown-resource', `There are no ${resource} here.`)
      await store.write((writer) => writer.remove(resource, id))
      return back(reply, base, resource)
    })
    app.post<{ Body: { name: string; requests: string } }>('/desk/faults', async (request, reply) => {
      if (!(request.body.name in FAULTS)) throw new Refusal(400, 'bad-fault', 'No such fault.')
      await faults.set(request.body.name as FaultName, Number(request.body.requests))
      return back(reply, base, 'faults')
    })
  }
}

type Plain = string | boolean | null
type Held = Readonly<Record<string, unknown>>
const isPlain = (value: unknown): value is Plain =>
  value === null || typeof value === 'string' || typeof value === 'boolean'

function back(reply: FastifyReply, base: string, at: string): FastifyReply {
  return reply.redirect(`${base}/desk#${at}`, 303)
}

/** Sets plain fields of an object to what was typed: a text to text, a flag to a flag, nothing to null where it was null or may be. */
async function setFields(
  store: Store,
  resources: readonly string[],
  {
    resource,
    id,
    ...typed
  }: Readonly<Record<string, string>> & { readonly resource: string; readonly id: string },
): Promise<void> {
  if (!resources.includes(resource))
    throw new Refusal(404, 'unknown-resource', `There are no ${resource} here.`)
  await store.write(async (writer) => {
    const value = (await writer.get<Held>(resource, id))?.value
    if (!value) throw new Refusal(404, 'unknown-object', `There is no ${resource}/${id}.`)
    const fields = Object.entries(typed).map(([name, text]): [string, Plain] => {
      const was = name
        .split('.')
        .reduce<unknown>((at, step) => (at as Held | null | undefined)?.[step], value)
      if (!isPlain(was)) throw new Refusal(400, 'no-plain-field', `"${name}" cannot be set on this page.`)
      return [name, typeof was === 'boolean' ? text === 'yes' : text === '' && name !== 'name' ? null : text]
    })
    await writer.put(
      resource,
      id,
      fields.reduce<unknown>((whole, [name, to]) => withField(whole, name.split('.'), to), value),
    )
  })
}

/** The plain fields of a value by their paths: of set-up all of them, of documents those of the whole. */
function plainFields(value: unknown, depth: 'whole' | 'parts', path = ''): [string, Plain][] {
  if (isPlain(value)) return [[path, value]]
  if (typeof value !== 'object' || value === null || (path !== '' && depth === 'whole')) return []
  return Object.entries(value).flatMap(([key, part]) =>
    plainFields(part, depth, path === '' ? key : `${path}.${key}`),
  )
}

/** A value with one field set, by its path. */
function withField(value: unknown, [head = '', ...rest]: readonly string[], to: Plain): unknown {
  const set = (was: unknown): unknown => (rest.length === 0 ? to : withField(was, rest, to))
  if (Array.isArray(value)) return value.map((part: unknown, at) => (String(at) === head ? set(part) : part))
  return { ...(value as Held), [head]: set((value as Held)[head]) }
}

/** What new items and parties start with here. */
function settingsSection(base: string, { defaultItemTaxCode, newPartiesTaxable }: SourceSettings): string {
  const taxable = newPartiesTaxable === null ? '' : newPartiesTaxable ? 'yes' : 'no'
  return `<section id="settings"><h2>Settings</h2>${form(
    `${base}/desk/settings`,
    `New items start under ${field('defaultItemTaxCode', defaultItemTaxCode ?? '', 'New items start under', 'size="12"')} new parties are taxable ${select(
      'newPartiesTaxable',
      'New parties are taxable',
      [
        ['', 'not said'],
        ['yes', 'yes'],
        ['no', 'no'],
      ],
      taxable,
    )}`,
    'Save settings',
  )}</section>`
}

function objectsSection(
  base: string,
  resource: string,
  objects: readonly { id: string; value: Held }[],
): string {
  const deep = !['documents', 'settlements', 'bank-lines'].includes(resource)
  const rows = objects.map(({ id, value }) => {
    const hidden = `<input type="hidden" name="resource" value="${escape(resource)}"><input type="hidden" name="id" value="${escape(id)}">`
    const fields = plainFields(value, deep ? 'parts' : 'whole').map(([name, v]) => {
      const label = `${name} of ${id}`
      return `${escape(name)} ${
        typeof v === 'boolean'
          ? select(
              name,
              label,
              [
                ['yes', 'yes'],
                ['no', 'no'],
              ],
              v ? 'yes' : 'no',
            )
          : field(name, String(v ?? ''), label, 'size="12"')
      }`
    })
    return [
      escape(id),
      form(`${base}/desk/objects`, `${hidden}${fields.join(' ')}`, `Set ${id}`),
      form(`${base}/desk/remove`, hidden, `Remove ${id}`),
    ]
  })
  return `<section id="${escape(resource)}"><h2>${escape(resource)}</h2>${table(['Id', 'Fields', ''], rows)}</section>`
}
