import type { FastifyInstance, FastifyReply } from 'fastify'
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
import type { StandinOptions } from '../ledger/ledger.ts'
import type { BillingRate, Invoice } from './charges.ts'
import { itemsSection, partiesSection } from './sections.ts'
import { changeDocument, changeFirstLine, creditInvoice, makeSale, sale } from './documents.ts'

interface BillingSettings {
  readonly company: { readonly id: string; readonly name: string }
  readonly baseCurrency: string
  readonly currencies: readonly string[]
  readonly timeZone: string
  readonly defaultItemTaxCode: string | null
}
const DEFAULTS: BillingSettings = {
  company: { id: 'none', name: 'Nobody yet' },
  baseCurrency: 'USD',
  currencies: ['USD'],
  timeZone: 'UTC',
  defaultItemTaxCode: null,
}

/** What the parts of the stand-in share. */
interface Desk {
  readonly store: Store
  readonly faults: Faults
  readonly address: string
  /** Its path. */
  readonly base: string
  settings(): Promise<BillingSettings>
}

/** The billing stand-in: its bridge under /bridge, its desk page under /desk. */
export function billing(app: FastifyInstance, { store, token, address }: StandinOptions): void {
  const settings = async (): Promise<BillingSettings> => ({
    ...DEFAULTS,
    ...(await store.setting<Partial<BillingSettings>>('settings', {})),
  })
  const desk: Desk = { store, faults: new Faults(store), address, base: new URL(address).pathname, settings }
  void app.register((scope) => billingBridge(scope, desk, token), { prefix: '/bridge' })
  deskPage(app, desk)
  documentActs(app, desk)
  setUpActs(app, desk)
}

async function billingBridge(
  scope: FastifyInstance,
  { store, faults, address, settings }: Desk,
  token: string,
): Promise<void> {
  bridge(
    scope,
    {
      store,
      token,
      resources: ['agencies', 'tax-rates', 'items', 'parties', 'documents'],
      about: async () => ({
        contract: '1',
        role: 'billing',
        product: 'Foragebill',
        company: (await settings()).company,
        webAddress: `${address}/desk`,
        resources: ['agencies', 'tax-rates', 'items', 'parties', 'documents'],
        takes: ['items', 'parties'],
        taxComputation: null,
        idempotency: null,
        findsByExternalId: false,
        longestLateCommitSeconds: null,
        voids: false,
      }),
      settings: async () => {
        const { baseCurrency, currencies, timeZone, defaultItemTaxCode } = await settings()
        return {
          baseCurrency,
          currencies,
          timeZone,
          taxEnabled: true,
          computesTax: true,
          keepsDocumentNumbers: true,
          pairsCreditsItself: false,
          usesAccountNumbers: false,
          lockedThrough: null,
          defaultItemTaxCode,
        }
      },
    },
    faults,
  )
  setUp(scope, store, ['items', 'parties'])
}

function deskPage(app: FastifyInstance, { store, faults, base, settings }: Desk): void {
  app.get<{ Querystring: { find?: string } }>('/desk', async (request, reply) => {
    const { find = '' } = request.query
    const invoices = foundAmong(
      await store.all<Invoice & { total: string }>('documents'),
      find,
      ({ value }) => `${value.number} ${value.party.name}`,
    )
    const rates = await store.all<BillingRate>('tax-rates')
    const parties = await store.all<{
      name: string
      exemption: { reason: string; certificate: string | null } | null
    }>('parties')
    const items = await store.all<BillingItem>('items')
    const body = `${sale(base, rates)}${itemsSection(base, items)}${partiesSection(base, parties)}${faultsSection(base, await faults.switches())}${invoicesSection(base, find, { invoices, rates })}`
    return reply.type('text/html').send(page('Foragebill', (await settings()).company.name, body))
  })
}

interface Listed {
  readonly invoices: readonly { readonly id: string; readonly value: Invoice & { readonly total: string } }[]
  readonly rates: readonly { readonly id: string; readonly value: BillingRate }[]
}

function invoicesSection(base: string, find: string, { invoices, rates }: Listed): string {
  return `<section id="invoices"><h2>Documents</h2>${finder(`${base}/desk`, find, 'number or customer')}${table(
    [
      'Number',
      'Kind',
      'State',
      'Date',
      'Customer',
      'Total',
      'Change the first line',
      'Rate of all taxed lines',
      'Rate of one line',
      'Settle',
    ],
    invoices.map(({ id, value }) => {
      const hidden = `<input type="hidden" name="id" value="${escape(id)}">`
      const act = (action: string, label: string): string =>
        form(`${base}/desk/state`, `${hidden}<input type="hidden" name="action" value="${action}">`, label)
      const rate = select(
        'rate',
        `Rate of ${value.number}`,
        rates.map((r) => [r.id, r.value.name] as const),
        value.lines.find((l) => l.taxRateId !== null)?.taxRateId ?? '',
      )
      return [
        `<span id="${escape(value.number)}">${escape(value.number)}</span>`,
        escape(value.kind),
        escape(value.status),
        escape(value.documentDate),
        escape(value.party.name),
        `${escape(value.total)} ${escape(value.currency)}`,
        form(
          `${base}/desk/invoices`,
          `${hidden}${field('amount', value.lines[0]?.amount ?? '', `Amount of ${value.number}`, 'size="9"')}`,
          'Save',
        ),
        form(`${base}/desk/rate`, `${hidden}${rate}`, `Charge ${value.number}`),
        form(
          `${base}/desk/line`,
          `${hidden}${select(
            'line',
            `Line of ${value.number}`,
            value.lines.map((l) => [l.id, `${l.id} ${l.description}`] as const),
          )} ${select('rate', `Rate of the line of ${value.number}`, [['', 'no tax'] as const, ...rates.map((r) => [r.id, r.value.name] as const)])}`,
          `Set line of ${value.number}`,
        ),
        value.status === 'void'
          ? 'void'
          : `${value.status === 'draft' ? act('open', `Issue ${value.number}`) : act('void', `Void ${value.number}`)}${value.kind === 'invoice' && value.status === 'open' ? ` ${act('credit', `Credit ${value.number}`)}` : ''}`,
      ]
    }),
  )}</section>`
}

function back(reply: FastifyReply, { base }: Desk, at = 'invoices'): FastifyReply {
  return reply.redirect(`${base}/desk#${at}`, 303)
}

/** Documents are made, changed, issued, voided and credited. */
function documentActs(app: FastifyInstance, desk: Desk): void {
  const { store, address } = desk
  app.post<{ Body: { id: string; amount: string } }>('/desk/invoices', async (request, reply) => {
    await changeFirstLine(store, request.body.id, request.body.amount)
    return back(reply, desk)
  })
  app.post<{ Body: { id: string; rate: string } }>('/desk/rate', async (request, reply) => {
    await changeDocument(store, request.body.id, (invoice) => ({
      ...invoice,
      lines: invoice.lines.map((line) =>
        line.taxRateId === null ? line : { ...line, taxRateId: request.body.rate },
      ),
    }))
    return back(reply, desk)
  })
  app.post<{ Body: { id: string; line: string; rate: string } }>('/desk/line', async (request, reply) => {
    const { id, line: wanted, rate } = request.body
    await changeDocument(store, id, (invoice) => {
      if (!invoice.lines.some((line) => line.id === wanted))
        throw new Refusal(404, 'unknown-line', `There is no line ${wanted} on ${invoice.number}.`)
      return {
        ...invoice,
        lines: invoice.lines.map((line) =>
          line.id === wanted ? { ...line, taxRateId: rate || null } : line,
        ),
      }
    })
    return back(reply, desk)
  })
  app.post<{ Body: { id: string; action: string } }>('/desk/state', async (request, reply) => {
    const { id, action } = request.body
    if (action === 'credit') await creditInvoice(store, id)
    else
      await changeDocument(store, id, (invoice) => ({
        ...invoice,
        status: action === 'open' ? 'open' : 'void',
      }))
    return back(reply, desk)
  })
  app.post<{ Body: Record<'customer' | 'date' | 'quantity' | 'unitPrice' | 'rate' | 'like', string> }>(
    '/desk/sales',
    async (request, reply) => {
      await makeSale(store, request.body, `${address}/desk`)
      return back(reply, desk)
    },
  )
}

/** Items, parties and faults. */
function setUpActs(app: FastifyInstance, desk: Desk): void {
  const { store, faults, base } = desk
  app.post<{ Body: { id: string; name: string; code: string; taxable: string } }>(
    '/desk/items',
    async (request, reply) => {
      const { id, name, code, taxable } = request.body
      if (name === '') throw new Refusal(400, 'no-name', 'An item has a name.')
      await store.write(async (writer) => {
        const item = (await writer.get<BillingItem>('items', id))?.value
        if (!item) throw new Refusal(404, 'unknown-item', `There is no item ${id}.`)
        await writer.put('items', id, {
          ...item,
          name,
          itemTaxCode: code || null,
          taxable: taxable === 'yes',
        })
      })
      return back(reply, desk, 'items')
    },
  )
  app.post<{ Body: { id: string; reason: string; certificate: string } }>(
    '/desk/parties',
    async (request, reply) => {
      const { id, reason, certificate } = request.body
      await store.write(async (writer) => {
        const party = (await writer.get<object>('parties', id))?.value
        if (!party) throw new Refusal(404, 'unknown-party', `There is no party ${id}.`)
        await writer.put('parties', id, {
          ...party,
          exemption:
            reason === '' ? null : { reason, certificate: certificate || null, from: null, to: null },
        })
      })
      return back(reply, desk, 'parties')
    },
  )
  app.post<{ Body: { name: string; requests: string } }>('/desk/faults', async (request, reply) => {
    if (!(request.body.name in FAULTS)) throw new Refusal(400, 'bad-fault', 'No such fault.')
    await faults.set(request.body.name as FaultName, Number(request.body.requests))
    return reply.redirect(`${base}/desk#faults`, 303)
  })
}

export interface BillingItem {
  readonly code: string
  readonly name: string
  readonly taxable: boolean
  readonly itemTaxCode: string | null
}
