import { field, form, select } from '../shared/desk.ts'
import { divideRounded, millionths, toText, toUnits } from '../shared/exact.ts'
import { Refusal } from '../shared/problems.ts'
import type { Store, Writer } from '../shared/store.ts'
import { charged, discounted, type BillingRate, type Credited, type Invoice } from './charges.ts'

/** What a credit note credits, as it stands now, and what earlier credit notes took of it. */
export async function creditedBy(writer: Writer, credit: Invoice, ownId: string): Promise<Credited | null> {
  if (credit.creditsDocumentId === null) return null
  const original = (await writer.get<Invoice>('documents', credit.creditsDocumentId))?.value
  if (!original) return null
  const others = (await writer.all<Invoice>('documents')).filter(
    (d) =>
      d.id !== ownId &&
      d.value.creditsDocumentId === credit.creditsDocumentId &&
      !['draft', 'void'].includes(d.value.status) &&
      isBefore(d.value, credit),
  )
  const before = new Map<string, bigint>()
  for (const { value } of others) {
    discounted(value).forEach((amount, at) => {
      const line = value.lines[at]?.creditsLineId
      if (line != null) before.set(line, (before.get(line) ?? 0n) + amount)
    })
  }
  return { original, before }
}

async function ratesIn(writer: Writer): Promise<Map<string, BillingRate>> {
  return new Map((await writer.all<BillingRate>('tax-rates')).map((r) => [r.id, r.value]))
}

/** A document changed as asked, and charged again as this system charges. */
export async function changeDocument(
  store: Store,
  id: string,
  change: (invoice: Invoice) => Invoice,
): Promise<void> {
  await store.write(async (writer) => {
    const invoice = (await writer.get<Invoice>('documents', id))?.value
    if (!invoice) throw new Refusal(404, 'unknown-invoice', `There is no document ${id}.`)
    await writer.put(
      'documents',
      id,
      charged(change(invoice), await ratesIn(writer), await creditedBy(writer, invoice, id)),
    )
  })
}

export async function changeFirstLine(store: Store, id: string, amount: string): Promise<void> {
  if (!/^\d{1,12}(\.\d{1,3})?$/.test(amount))
    throw new Refusal(400, 'bad-amount', `"${amount}" is no amount.`)
  await changeDocument(store, id, (invoice) => {
    const exact = toText(toUnits(amount, invoice.currency), invoice.currency)
    return {
      ...invoice,
      lines: invoice.lines.map((line, at) =>
        at === 0
          ? {
              ...line,
              quantity: '1',
              unitPrice: exact,
              discount: toText(0n, invoice.currency),
              amount: exact,
            }
          : line,
      ),
    }
  })
}

/** A credit note for all of an invoice that is not credited yet. */
export async function creditInvoice(store: Store, id: string): Promise<void> {
  await store.write(async (writer) => {
    const invoice = (await writer.get<Invoice>('documents', id))?.value
    if (!invoice) throw new Refusal(404, 'unknown-invoice', `There is no invoice ${id}.`)
    const number = `CN-${await writer.nextNumber('credit-number', 3901)}`
    const nil = toText(0n, invoice.currency)
    const prices = discounted(invoice)
    const lines = invoice.lines.map((line, at) => ({
      ...line,
      discount: nil,
      amount: toText(prices[at] ?? 0n, invoice.currency),
      creditsLineId: line.id,
    }))
    const credit = {
      ...invoice,
      number,
      kind: 'credit-note',
      creditsDocumentId: id,
      discount: nil,
      reimbursed: nil,
      lines,
    }
    await writer.put(
      'documents',
      number,
      charged(credit, await ratesIn(writer), await creditedBy(writer, credit, number)),
    )
  })
}

function isBefore(a: Invoice, b: Invoice): boolean {
  return a.documentDate < b.documentDate || (a.documentDate === b.documentDate && a.number < b.number)
}

export async function makeSale(
  store: Store,
  body: Record<'customer' | 'date' | 'quantity' | 'unitPrice' | 'rate' | 'like', string>,
  webAddress: string,
): Promise<void> {
  await store.write(async (writer) => {
    const like = (await writer.all<Invoice>('documents')).find(
      ({ value }) => value.number === body.like,
    )?.value
    if (!like) throw new Refusal(404, 'unknown-invoice', `There is no invoice ${body.like}.`)
    const number = `LA-${await writer.nextNumber('sale-number', 29001)}`
    const net = divideRounded(toUnits(body.unitPrice, like.currency) * millionths(body.quantity), 1000000n)
    const line = {
      ...like.lines[0],
      id: '1',
      quantity: body.quantity,
      unitPrice: body.unitPrice,
      discount: toText(0n, like.currency),
      amount: toText(net, like.currency),
      taxRateId: body.rate || null,
      creditsLineId: null,
    }
    const party = { id: body.customer, name: body.customer }
    await writer.put(
      'documents',
      number,
      charged(
        {
          ...like,
          number,
          documentDate: body.date,
          supplyDate: body.date,
          party,
          discount: toText(0n, like.currency),
          reimbursed: toText(0n, like.currency),
          lines: [line as Invoice['lines'][number]],
          webAddress,
        },
        await ratesIn(writer),
      ),
    )
  })
}

export function sale(base: string, rates: readonly { id: string; value: BillingRate }[]): string {
  const options = [
    ['', 'no tax'] as const,
    ...rates.map((r) => [r.id, `${r.value.name}, ${r.value.percent} %`] as const),
  ]
  const fields = `${field('customer', '', 'Customer', 'placeholder="Customer" required')} ${field('date', '', 'Date', 'type="date" required')}
    ${field('like', '', 'Ship to, item as on invoice', 'placeholder="as on invoice number" required')} ${field('quantity', '1', 'Quantity', 'size="4"')}
    ${field('unitPrice', '', 'Unit price', 'size="8" placeholder="Price" required')} ${select('rate', 'Rate', options)}`
  return `<section id="sale"><h2>New sale</h2>${form(`${base}/desk/sales`, fields, 'Invoice it')}</section>`
}
