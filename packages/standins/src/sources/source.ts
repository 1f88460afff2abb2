import type { FastifyInstance, FastifyReply } from 'fastify'
import type { StandinOptions } from '../ledger/ledger.ts'
import { bridge } from '../shared/bridge.ts'
import { faultsSection, field, finder, form, foundAmong, page, select } from '../shared/desk.ts'
import { FAULTS, Faults, type FaultName } from '../shared/faults.ts'
import { Refusal } from '../shared/problems.ts'
import { setUp } from '../shared/setUp.ts'
import type { Store } from '../shared/store.ts'
import { objectsSection, setFields, type Held } from './fields.ts'

export type SourceRole = 'pos' | 'commerce' | 'purchasing' | 'payments' | 'bank' | 'tax-service'

interface Kind {
  readonly product: string
  readonly resources: readonly string[]
  readonly takes: readonly string[]
  readonly creates?: readonly string[]
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
  'tax-service': {
    product: 'Cairn Tax Reckoner',
    resources: ['agencies', 'tax-rates', 'committed'],
    takes: ['committed'],
    creates: ['committed'],
  },
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
  readonly defaultTaxRateId: string | null
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
  defaultTaxRateId: null,
  rounding: null,
}

/** What the parts of a stand-in share. */
interface Desk {
  readonly role: SourceRole
  readonly store: Store
  readonly faults: Faults
  readonly address: string
  /** Its path. */
  readonly base: string
  settings(): Promise<SourceSettings>
}

/** A stand-in of a role: its bridge under /bridge, its desk page, on which every plain field of what it holds can be set, under /desk. */
export function source(role: SourceRole): (app: FastifyInstance, options: StandinOptions) => void {
  return (app, { store, token, address }) => {
    const settings = async (): Promise<SourceSettings> => ({
      ...DEFAULTS,
      ...(await store.setting<Partial<SourceSettings>>('settings', {})),
    })
    const faults = new Faults(store)
    const desk: Desk = { role, store, faults, address, base: new URL(address).pathname, settings }
    void app.register((scope) => sourceBridge(scope, desk, token), { prefix: '/bridge' })
    deskPage(app, desk)
    deskActs(app, desk)
  }
}

async function sourceBridge(
  scope: FastifyInstance,
  { role, store, faults, address, settings }: Desk,
  token: string,
): Promise<void> {
  const { product, resources, takes, creates = [] } = KINDS[role]
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
        creates,
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
  setUp(scope, store, takes, creates)
}

function deskPage(app: FastifyInstance, { role, store, faults, base, settings }: Desk): void {
  const { product, resources } = KINDS[role]
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
}

function deskActs(app: FastifyInstance, { role, store, faults, base, settings }: Desk): void {
  const { resources } = KINDS[role]
  app.post<{ Body: Readonly<Record<string, string>> & { readonly resource: string; readonly id: string } }>(
    '/desk/objects',
    async (request, reply) => {
      await setFields(store, resources, request.body)
      return back(reply, base, request.body.resource)
    },
  )
  app.post<{ Body: { defaultItemTaxCode: string; newPartiesTaxable: string; defaultTaxRateId?: string } }>(
    '/desk/settings',
    async (request, reply) => {
      const now = await settings()
      const {
        defaultItemTaxCode,
        newPartiesTaxable,
        defaultTaxRateId = now.defaultTaxRateId ?? '',
      } = request.body
      await store.setSetting('settings', {
        ...now,
        defaultTaxRateId: defaultTaxRateId.trim() || null,
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

function back(reply: FastifyReply, base: string, at: string): FastifyReply {
  return reply.redirect(`${base}/desk#${at}`, 303)
}

/** What new items and parties start with here, and the rate that a sale bears where nothing says another. */
function settingsSection(
  base: string,
  { defaultItemTaxCode, newPartiesTaxable, defaultTaxRateId }: SourceSettings,
): string {
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
    )} without an address it taxes at ${field('defaultTaxRateId', defaultTaxRateId ?? '', 'Taxes without an address at', 'size="12"')}`,
    'Save settings',
  )}</section>`
}
