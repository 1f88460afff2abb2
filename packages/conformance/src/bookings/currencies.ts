import type { Agency } from '@axion/contract'
import { formatAmount, parseAmount } from '@axion/core'
import { must } from '../report.ts'
import { inCurrency, same, type Trial } from './trial.ts'

/** Another currency is converted once. */
export async function currencyChecks({
  report,
  client,
  about,
  settings,
  request,
  made,
  entriesOf,
}: Trial): Promise<void> {
  const other = settings.currencies.find((c) => c !== settings.baseCurrency)
  const agencies = (await client.all('agencies')).filter((i) => !i.removed)
  const agency = agencies
    .map((i) => ({ id: i.id, ...(i.value as Agency) }))
    .find((a) => a.liabilityAccountId !== null)
  const digits = (currency: string): number => formatAmount(0n, currency).split('.')[1]?.length ?? 0
  if (
    other &&
    agency &&
    about.taxComputation === 'as-given' &&
    [other, settings.baseCurrency].every((c) => digits(c) === 2)
  )
    await report.rule(
      'each tax line is converted by itself, and the rest of the total over the others',
      async () => {
        const body = request({ currency: other, exchangeRate: '1.0837' })
        const tax = (amount: string) => ({
          agencyId: agency.id,
          accountId: agency.liabilityAccountId ?? '',
          base: inCurrency('90.00', other),
          tax: inCurrency(amount, other),
        })
        await made({
          ...body,
          lines: body.lines.map((l) => ({
            ...l,
            net: inCurrency('90.00', other),
            taxable: inCurrency('90.00', other),
          })),
          taxes: [tax('4.00')],
        })
        const [entry] = await entriesOf(body.externalId)
        const held = entry?.value.lines.find((l) => l.agencyId !== null)?.baseCredit ?? ''
        // 4.00 × 1.0837 = 4.3348.
        must(same(held, '4.33', settings.baseCurrency), `the books hold ${held} of tax, not 4.33`)
      },
    )
  if (!other) return report.skip('another currency', 'none is in use')
  await report.rule(
    'another currency is converted once, and both sides agree in the books’ currency',
    async () => {
      const body = request({ currency: other, exchangeRate: '1.3371' })
      await made({
        ...body,
        lines: body.lines.map((l) => ({
          ...l,
          net: inCurrency('33', other),
          taxable: inCurrency('0', other),
        })),
      })
      const [entry] = await entriesOf(body.externalId)
      const lines = entry?.value.lines ?? []
      const [debits, credits] = [
        lines.map((l) => parseAmount(l.baseDebit ?? '0', settings.baseCurrency)),
        lines.map((l) => parseAmount(l.baseCredit ?? '0', settings.baseCurrency)),
      ].map((of) => of.reduce((s, n) => s + n, 0n))
      // 33 × 1.3371 = 44.1243, rounded half away from zero to what the currency has.
      const expected = parseAmount(
        { 0: '44', 2: '44.12', 3: '44.124' }[
          formatAmount(0n, settings.baseCurrency).split('.')[1]?.length ?? 0
        ] ?? '44.12',
        settings.baseCurrency,
      )
      must(
        debits === credits && debits === expected,
        `the books hold ${debits} and ${credits} minor units, not ${expected}`,
      )
    },
  )
}
