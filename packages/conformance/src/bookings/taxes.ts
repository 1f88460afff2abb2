import type { Agency, TaxRate } from '@axion/contract'
import { must } from '../report.ts'
import { inCurrency, same, type Trial } from './trial.ts'

/** Tax is computed by rate, or written as it is given. */
export async function taxChecks({ report, client, about, request, made, entriesOf }: Trial): Promise<void> {
  const rates = (await client.all('tax-rates'))
    .filter((i) => !i.removed)
    .map((i) => ({ id: i.id, ...(i.value as TaxRate) }))
    .filter((r) => r.active && (r.components ?? []).some((c) => c.perUnit === null && Number(c.percent) > 0))
  const agencies = new Map(
    (await client.all('agencies')).filter((i) => !i.removed).map((i) => [i.id, i.value as Agency]),
  )
  const rate = rates.find((r) => r.components?.every((c) => agencies.get(c.agencyId)?.liabilityAccountId))
  if (about.taxComputation === 'by-rate' && rate) {
    await report.rule(
      'computes tax by rate: a tax line for each agency, on its base, in its liability account',
      async () => {
        const body = request({})
        const taxed = {
          ...body,
          lines: body.lines.map((l) => ({ ...l, taxable: l.net, taxRate: { id: rate.id } })),
        }
        await made(taxed)
        const [entry] = await entriesOf(taxed.externalId)
        const tax = entry?.value.lines.filter((l) => l.agencyId !== null) ?? []
        must(
          tax.length > 0 &&
            tax.every((l) => agencies.get(l.agencyId ?? '')?.liabilityAccountId === l.accountId),
          'tax lines are missing, or not in their agency’s account',
        )
        must(
          tax.every((l) => l.base === null || same(l.base, body.lines[0]?.net ?? '', body.currency)),
          'a tax line has another base',
        )
      },
    )
  } else if (about.taxComputation === 'as-given' && agencies.size > 0) {
    await report.rule('writes the taxes that it is given, just as they are', async () => {
      const [agencyId, agency] = [...agencies].find(([, a]) => a.liabilityAccountId !== null) ?? []
      const body = request({})
      const given = {
        agencyId: agencyId ?? '',
        accountId: agency?.liabilityAccountId ?? '',
        base: inCurrency('100.00', body.currency),
        tax: inCurrency('7.13', body.currency),
      }
      await made({ ...body, taxes: [given] })
      const [entry] = await entriesOf(body.externalId)
      must(
        entry?.value.lines.some(
          (l) =>
            l.agencyId === agencyId &&
            l.accountId === given.accountId &&
            same(l.credit, '7.13', body.currency),
        ),
        'the tax line is not there',
      )
    })
  } else report.skip('tax on bookings', 'no rate whose agencies all have an account')
}
