import type { FastifyInstance } from 'fastify'
import { bridge } from '../shared/bridge.ts'
import { escape, faultsSection, field, form, page, select, table } from '../shared/desk.ts'
import { divideRounded, millionths, toText, toUnits } from '../shared/exact.ts'
import { FAULTS, Faults, type FaultName } from '../shared/faults.ts'
import { Refusal } from '../shared/problems.ts'
import type { StandinOptions } from '../ledger/ledger.ts'
import type { Store } from '../shared/store.ts'
import { charged, type BillingRate, type Invoice } from './charges.ts'

interface BillingSettings {
  readonly company: { readonly id: string; readonly name: string }
  readonly baseCurrency: string
  readonly currencies: readonly string[]
  readonly timeZone: string
}
const DEFAULTS: BillingSettings = { company: { id: 'none', name: 'Nobody yet' }, baseCurrency: 'USD', currencies: ['USD'], timeZone: 'UTC' }

/** The billing stand-in: its bridge under /bridge, its desk page under /desk. */
export function billing(app: FastifyInstance, { store, token, address }: StandinOptions): void {
  const faults = new Faults(store)
  const base = new URL(address).pathname
  const settings = async (): Promise<BillingSettings> => ({ ...DEFAULTS, ...(await store.setting<Partial<BillingSettings>>('settings', {})) })

  void app.register(async (scope) => {
    bridge(scope, {
      store,
      token,
      resources: ['agencies', 'tax-rates', 'documents'],
      about: async () => ({
        contract: '1', role: 'billing', product: 'Foragebill', company: (await settings()).company, webAddress: `${address}/desk`,
        resources: ['agencies', 'tax-rates', 'documents'], takes: [], taxComputation: null, idempotency: null, findsByExternalId: false, longestLateCommitSeconds: null,
      }),
      settings: async () => {
        const { baseCurrency, currencies, timeZone } = await settings()
        return { baseCurrency, currencies, timeZone, taxEnabled: true, computesTax: true, keepsDocumentNumbers: true, pairsCreditsItself: false, usesAccountNumbers: false, lockedThrough: null }
      },
    }, faults)
  }, { prefix: '/bridge' })

  app.get('/desk', async (_request, reply) => {
    const invoices = await store.all<Invoice & { total: string }>('documents')
    const rates = await store.all<BillingRate>('tax-rates')
    const body = `${sale(base, rates)}${faultsSection(base, await faults.switches())}<section id="invoices"><h2>Invoices</h2>${table(
      ['Number', 'Date', 'Customer', 'Total', 'Change the first line'],
      invoices.map(({ id, value }) => [
        escape(value.number), escape(value.documentDate), escape(value.party.name), escape(value.total),
        form(`${base}/desk/invoices`, `<input type="hidden" name="id" value="${escape(id)}">${field('net', value.lines[0]?.net ?? '', `Net of ${value.number}`, 'size="9"')}`, 'Save'),
      ]),
    )}</section>`
    return reply.type('text/html').send(page('Foragebill', (await settings()).company.name, body))
  })
  app.post<{ Body: { id: string; net: string } }>('/desk/invoices', async (request, reply) => {
    await changeFirstLine(store, request.body.id, request.body.net)
    return reply.redirect(`${base}/desk#invoices`, 303)
  })
  app.post<{ Body: Record<'customer' | 'date' | 'quantity' | 'unitPrice' | 'rate' | 'like', string> }>('/desk/sales', async (request, reply) => {
    await makeSale(store, request.body, `${address}/desk`)
    return reply.redirect(`${base}/desk#invoices`, 303)
  })
  app.post<{ Body: { name: string; requests: string } }>('/desk/faults', async (request, reply) => {
    if (!(request.body.name in FAULTS)) throw new Refusal(400, 'bad-fault', 'No such fault.')
    await faults.set(request.body.name as FaultName, Number(request.body.requests))
    return reply.redirect(`${base}/desk#faults`, 303)
  })
}

function sale(base: string, rates: readonly { id: string; value: BillingRate }[]): string {
  const options = [['', 'no tax'] as const, ...rates.map((r) => [r.id, `${r.value.name}, ${r.value.percent} %`] as const)]
  const fields = `${field('customer', '', 'Customer', 'placeholder="Customer" required')} ${field('date', '', 'Date', 'type="date" required')}
    ${field('like', '', 'Ship to, item as on invoice', 'placeholder="as on invoice number" required')} ${field('quantity', '1', 'Quantity', 'size="4"')}
    ${field('unitPrice', '', 'Unit price', 'size="8" placeholder="Price" required')} ${select('rate', 'Rate', options)}`
  return `<section id="sale"><h2>New sale</h2>${form(`${base}/desk/sales`, fields, 'Invoice it')}</section>`
}

async function changeFirstLine(store: Store, id: string, net: string): Promise<void> {
  if (!/^\d{1,12}(\.\d{1,2})?$/.test(net)) throw new Refusal(400, 'bad-amount', `"${net}" is no amount.`)
  await store.write(async (writer) => {
    const invoice = (await writer.get<Invoice>('documents', id))?.value
    if (!invoice) throw new Refusal(404, 'unknown-invoice', `There is no invoice ${id}.`)
    const rates = new Map((await writer.all<BillingRate>('tax-rates')).map((r) => [r.id, r.value]))
    const exact = toText(toUnits(net, invoice.currency), invoice.currency)
    const lines = invoice.lines.map((line, at) => (at === 0 ? { ...line, quantity: '1', unitPrice: exact, net: exact } : line))
    await writer.put('documents', id, charged({ ...invoice, lines }, rates))
  })
}

async function makeSale(store: Store, body: Record<'customer' | 'date' | 'quantity' | 'unitPrice' | 'rate' | 'like', string>, webAddress: string): Promise<void> {
  await store.write(async (writer) => {
    const like = (await writer.all<Invoice>('documents')).find(({ value }) => value.number === body.like)?.value
    if (!like) throw new Refusal(404, 'unknown-invoice', `There is no invoice ${body.like}.`)
    const rates = new Map((await writer.all<BillingRate>('tax-rates')).map((r) => [r.id, r.value]))
    const number = `LA-${await writer.nextNumber('sale-number', 29001)}`
    const net = divideRounded(toUnits(body.unitPrice, like.currency) * millionths(body.quantity), 1_000_000n)
    const line = { ...like.lines[0], id: '1', quantity: body.quantity, unitPrice: body.unitPrice, net: toText(net, like.currency), taxRateId: body.rate || null }
    const party = { id: body.customer, name: body.customer }
    await writer.put('documents', number, charged({ ...like, number, documentDate: body.date, supplyDate: body.date, party, lines: [line as Invoice['lines'][number]], webAddress }, rates))
  })
}
