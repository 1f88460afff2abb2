import {
  Balances,
  decodeDocument,
  KINDS_OF,
  percentOf,
  problemOfEntry,
  type About,
  type Account,
  type Agency,
  type JournalEntry,
  type Settings,
  type Settlement,
  type SourceDocument,
  type TaxRate,
} from '@axion/contract'
import { formatPercent, parseAmount, parsePercent, sum } from '@axion/core'
import { committedChecks } from './committed.ts'
import { must, type Report } from './report.ts'
import { valuesOf, type Client } from './client.ts'

/** What the objects say together: names that lead somewhere, amounts that add up. */
export async function contentChecks(
  report: Report,
  client: Client,
  { role, resources }: About,
  settings: Settings,
): Promise<void> {
  if (KINDS_OF[role].length > 0) {
    await documentChecks(report, client, role)
    await tenderChecks(report, client, resources)
  } else if (role === 'payments') await settlementChecks(report, client)
  else if (role === 'tax-service') await committedChecks(report, client)
  else if (role !== 'bank') {
    await ledgerSetUpChecks(report, client, settings)
    await entryChecks(report, client, settings)
  }
}

async function documentChecks(report: Report, client: Client, role: About['role']): Promise<void> {
  await report.rule(
    'documents add up, are of the kinds of the role, and name rates that there are',
    async () => {
      const rates = await valuesOf<TaxRate>(client, 'tax-rates')
      const agencies = await valuesOf<Agency>(client, 'agencies')
      const documents = await valuesOf<SourceDocument>(client, 'documents')
      for (const [id, document] of documents) {
        decodeDocument(document)
        must(
          KINDS_OF[role].includes(document.kind),
          `${id} is a ${document.kind}, which a ${role} system has not`,
        )
        const unknown = [
          ...document.lines.map((l) => l.taxRateId),
          ...document.taxes.map((t) => t.taxRateId),
        ].find((rate) => rate !== null && !rates.has(rate))
        must(unknown === undefined, `${id} names the rate ${unknown}, which there is not`)
        const stranger = document.taxes
          .flatMap((t) => t.components ?? [])
          .find((c) => !agencies.has(c.agencyId))
        must(stranger === undefined, `${id} names the agency ${stranger?.agencyId}, which there is not`)
        must(
          document.creditsDocumentId === null || documents.has(document.creditsDocumentId),
          `${id} credits ${document.creditsDocumentId}, which there is not`,
        )
      }
    },
  )
}

async function tenderChecks(report: Report, client: Client, resources: About['resources']): Promise<void> {
  await report.rule(
    'documents name places and ways of payment that there are, and tenders come to the total',
    async () => {
      const [methods, locations] = [
        resources.includes('payment-methods') ? await valuesOf(client, 'payment-methods') : null,
        resources.includes('locations') ? await valuesOf(client, 'locations') : null,
      ]
      for (const [id, { tenders = [], locationId = null, total, currency }] of await valuesOf<
        Partial<SourceDocument> & Pick<SourceDocument, 'total' | 'currency'>
      >(client, 'documents')) {
        must(
          locationId === null || locations?.has(locationId),
          `${id} names the location ${locationId}, which there is not`,
        )
        must(
          tenders.every((t) => methods?.has(t.paymentMethodId)),
          `${id} was paid in a way that there is not`,
        )
        must(
          tenders.length === 0 ||
            sum(tenders.map((t) => parseAmount(t.amount, currency))) === parseAmount(total, currency),
          `${id} was paid more or less than its total`,
        )
      }
    },
  )
}

async function settlementChecks(report: Report, client: Client): Promise<void> {
  await report.rule(
    'settlements name payouts that there are, and a payout is what its charges come to',
    async () => {
      const settlements = await valuesOf<Settlement>(client, 'settlements')
      const moved = ({ amount, fee, currency }: Settlement): bigint =>
        parseAmount(amount, currency) - parseAmount(fee, currency)
      for (const [id, settlement] of settlements)
        must(
          settlement.payoutId === null || settlements.get(settlement.payoutId)?.kind === 'payout',
          `${id} names the payout ${settlement.payoutId}, which there is not`,
        )
      for (const [id, payout] of settlements) {
        if (payout.kind !== 'payout') continue
        const inside = sum([...settlements.values()].filter((s) => s.payoutId === id).map(moved))
        must(inside === -moved(payout), `${id} pays out something else than its charges come to`)
      }
    },
  )
}

async function ledgerSetUpChecks(report: Report, client: Client, settings: Settings): Promise<void> {
  await report.rule('agencies and rates name accounts and agencies that there are', async () => {
    const accounts = await valuesOf<Account>(client, 'accounts')
    const agencies = await valuesOf<Agency>(client, 'agencies')
    for (const [id, agency] of agencies)
      must(
        agency.liabilityAccountId === null || accounts.has(agency.liabilityAccountId),
        `${id} posts to ${agency.liabilityAccountId}, which there is not`,
      )
    for (const [id, rate] of await valuesOf<TaxRate>(client, 'tax-rates')) {
      for (const component of rate.components ?? [])
        must(
          agencies.has(component.agencyId),
          `${id} names the agency ${component.agencyId}, which there is not`,
        )
    }
  })
  await report.rule('a rate’s percent is what its components come to, tax on tax included', async () => {
    const today = new Date().toISOString().slice(0, 10)
    for (const [id, { percent, components, active }] of await valuesOf<TaxRate>(client, 'tax-rates')) {
      if (!active || components === null) continue
      // What it says may be of the day that its system works at.
      const days = [today, ...components.flatMap((c) => c.from ?? '0001-01-01')]
      must(
        days.some((day) => percentOf(components, day) === parsePercent(percent)),
        `${id} says ${percent}, and its components come to ${formatPercent(percentOf(components, today))}`,
      )
    }
  })
  await report.rule('balances are in the books’ currency, one row an account', async () => {
    const { items } = Balances.parse(
      (await client.ask('GET', `/balances?from=${MONTH_START()}&to=${new Date().toISOString().slice(0, 10)}`))
        .body,
    )
    must(
      items.every((row) => row.currency === settings.baseCurrency),
      'a balance is in another currency than the books',
    )
    must(new Set(items.map((row) => row.accountId)).size === items.length, 'an account has two rows')
  })
}

async function entryChecks(report: Report, client: Client, settings: Settings): Promise<void> {
  await report.rule('an entry has no line on both sides, and its books are the company’s', async () => {
    for (const [id, entry] of await valuesOf<JournalEntry>(client, 'journal-entries')) {
      const problem = problemOfEntry(entry, settings.baseCurrency)
      must(problem === null, `${id}: ${problem}`)
    }
  })
  await report.rule('journal entries balance, in their own currency and in the books’', async () => {
    const accounts = await valuesOf<Account>(client, 'accounts')
    for (const [id, entry] of await valuesOf<JournalEntry>(client, 'journal-entries')) {
      const own = sum(
        entry.lines.map((l) => parseAmount(l.debit, entry.currency) - parseAmount(l.credit, entry.currency)),
      )
      must(own === 0n, `${id} is out by ${own} minor units of ${entry.currency}`)
      must(
        entry.lines.every((l) => accounts.has(l.accountId)),
        `${id} names an account that there is not`,
      )
      must(
        entry.currency === entry.baseCurrency ||
          entry.lines.every((l) => l.baseDebit !== null && l.baseCredit !== null),
        `${id} is in another currency and does not say what it comes to in the books'`,
      )
      const inBooks = sum(
        entry.lines.map(
          (l) =>
            parseAmount(l.baseDebit ?? l.debit, entry.baseCurrency) -
            parseAmount(l.baseCredit ?? l.credit, entry.baseCurrency),
        ),
      )
      must(
        entry.currency === entry.baseCurrency || inBooks === 0n,
        `${id} is out by ${inBooks} in the books' currency`,
      )
    }
  })
  await report.rule('balances are the sums of the standing entries', () => balancesHold(client, settings))
}

/** Opening and closing count credits less debits, of every entry that is not voided. */
export async function balancesHold(client: Client, { baseCurrency }: Settings): Promise<void> {
  const [from, to] = ['1900-01-01', '2999-12-31']
  const { items } = Balances.parse((await client.ask('GET', `/balances?from=${from}&to=${to}`)).body)
  const sums = new Map<string, bigint>()
  for (const entry of (await valuesOf<JournalEntry>(client, 'journal-entries')).values()) {
    if (entry.voided) continue
    for (const l of entry.lines)
      sums.set(
        l.accountId,
        (sums.get(l.accountId) ?? 0n) +
          parseAmount(l.baseCredit ?? l.credit, baseCurrency) -
          parseAmount(l.baseDebit ?? l.debit, baseCurrency),
      )
  }
  for (const { accountId, currency, opening, debit, credit, closing } of items) {
    const [o, d, c, end] = [opening, debit, credit, closing].map((text) => parseAmount(text, currency)) as [
      bigint,
      bigint,
      bigint,
      bigint,
    ]
    must(o + c - d === end, `${accountId}: opening, debits and credits do not come to the closing balance`)
    must(
      end === (sums.get(accountId) ?? 0n),
      `${accountId} closes at ${closing}, and its entries come to something else`,
    )
    sums.delete(accountId)
  }
  const missing = [...sums].find(([, amount]) => amount !== 0n)
  must(missing === undefined, `${missing?.[0]} has entries and no balance`)
}

const MONTH_START = (): string => `${new Date().toISOString().slice(0, 7)}-01`
