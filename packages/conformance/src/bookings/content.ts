import type { BookingRequest, Dimension } from '@axion/contract'
import { must, mustRefuse } from '../report.ts'
import { inCurrency, mustBook, same, type Trial } from './trial.ts'

/** What there is not is refused. */
export async function unknownChecks({ report, about, request, entriesOf, offered }: Trial): Promise<void> {
  await report.rule(
    'an account that there is not, and a rate that there is not, are refused with 422, and nothing is written',
    async () => {
      const unknown = request()
      mustRefuse(
        await offered({
          ...unknown,
          lines: unknown.lines.map((l) => ({ ...l, accountId: 'no-such-account' })),
        }),
        422,
        'an unknown account',
      )
      if (about.taxComputation === 'by-rate')
        mustRefuse(
          await offered({
            ...unknown,
            lines: unknown.lines.map((l) => ({ ...l, taxRate: { name: 'no such rate' } })),
          }),
          422,
          'an unknown rate',
        )
      must((await entriesOf(unknown.externalId)).length === 0, 'something was written all the same')
    },
  )
}

/** Values of tracking dimensions stand on their lines. */
export async function dimensionChecks({
  report,
  client,
  about,
  request,
  made,
  entriesOf,
  income,
  offered,
}: Trial): Promise<void> {
  const [dimension] = about.resources.includes('dimensions')
    ? (await client.all('dimensions')).filter((i) => !i.removed && (i.value as Dimension).active)
    : []
  if (!dimension)
    report.skip(
      'tracking dimensions on a line',
      about.resources.includes('dimensions') ? 'it has no value in use' : 'it has none',
    )
  else {
    await report.rule(
      'a value of a tracking dimension stands on the line that was given it, and one that there is not is refused with 422',
      async () => {
        const body = request()
        const under = (id: string): BookingRequest => ({
          ...body,
          lines: body.lines.map((l) => ({ ...l, dimensionIds: [id] })),
        })
        mustRefuse(await offered(under('no-such-value')), 422, 'a value that there is not')
        await made(under(dimension.id))
        const [entry] = await entriesOf(body.externalId)
        must(
          entry?.value.lines.find((l) => l.accountId === income.id)?.dimensionIds.includes(dimension.id) ===
            true,
          'the line in the journal does not have it',
        )
      },
    )
  }
}

/** A credit note stands on the other side. */
export async function creditChecks({
  report,
  request,
  made,
  entriesOf,
  receivable,
  income,
}: Trial): Promise<void> {
  await report.rule('a credit note stands on the other side', async () => {
    const body = request({ kind: 'credit-note' })
    await made(body)
    const [entry] = await entriesOf(body.externalId)
    must(entry, 'it is not in the journal')
    mustBook(entry.value, { receivable: receivable.id, income: income.id, amount: '100.00', sign: -1n })
  })
}

/** A correction is written as it is handed over. */
export async function correctionChecks({
  report,
  settings,
  request,
  made,
  entriesOf,
  receivable,
  income,
  offered,
}: Trial): Promise<void> {
  await report.rule(
    'a correction is written as its journal says, and refused where that does not balance',
    async () => {
      const nil = inCurrency('0', settings.baseCurrency)
      const line = (accountId: string, debit: string, credit: string) => ({
        accountId,
        description: 'Test',
        agencyId: null,
        debit: inCurrency(debit, settings.baseCurrency),
        credit: inCurrency(credit, settings.baseCurrency),
        base: null,
      })
      const body = request({
        kind: 'correction',
        lines: [],
        taxes: null,
        journal: [line(income.id, '7.00', '0'), line(receivable.id, '0', '7.00')],
      })
      await made(body)
      const [entry] = await entriesOf(body.externalId)
      must(
        entry?.value.lines.some(
          (l) =>
            l.accountId === income.id &&
            same(l.debit, '7.00', body.currency) &&
            same(l.credit, nil, body.currency),
        ),
        'its lines are not those that were handed over',
      )
      mustRefuse(
        await offered(
          request({
            kind: 'correction',
            lines: [],
            taxes: null,
            journal: [line(income.id, '7.00', '0'), line(receivable.id, '0', '6.00')],
          }),
        ),
        422,
        'a correction that does not balance',
      )
    },
  )
}
