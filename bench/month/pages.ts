import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import {
  DOCUMENT,
  isMoving,
  RESOURCES_OF,
  type JournalEntry,
  type SourceDocument,
  type SystemRole,
} from '@axion/contract'
import { formatAmount, sum, type VoiceFacts } from '@axion/core'
import type { SystemData } from '@axion/demo'
import { familiesIn } from '../../packages/server/src/documents/families.ts'
import { inBaseCurrency, sourceUnit, type StoredDocument } from '../../packages/server/src/documents/units.ts'
import type { SetUp } from '../../packages/server/src/proof/grounds.ts'
import { documentAt, SYSTEMS, type Made } from './sales.ts'

/** The pages of a business's bridges, written into a folder as they are sent: `system/resource.after.json`. */

export const PAGE = 500

/** Pages of one resource as they come along. */
class Pages {
  private items: object[] = []
  private sequence: number

  constructor(
    private readonly path: string,
    private after = 0,
    private readonly revision = '1',
  ) {
    this.sequence = after
  }

  add(id: string, value: unknown): void {
    // A page is written once it is known whether another follows.
    if (this.items.length === PAGE) this.write(true)
    this.items.push({ id, sequence: String(++this.sequence), revision: this.revision, removed: false, value })
  }

  end(): void {
    this.write(false)
  }

  private write(more: boolean): void {
    writeFileSync(
      `${this.path}.${this.after}.json`,
      JSON.stringify({ items: this.items, next: String(this.sequence), more }),
    )
    this.after = this.sequence
    this.items = []
  }
}

export interface Business {
  readonly system: string
  readonly role: SystemRole
  readonly data: SystemData
}

/** What stands still: who answers, its settings, and all of its set-up. */
export function writeSetUp(folder: string, businesses: readonly Business[]): void {
  for (const { system, role, data } of businesses) {
    mkdirSync(join(folder, system), { recursive: true })
    writeFileSync(
      join(folder, system, 'about.json'),
      JSON.stringify({
        contract: '1',
        role,
        product: system,
        company: { id: 'bench', name: 'Bench' },
        webAddress: null,
        resources: RESOURCES_OF[role],
        takes: [],
        taxComputation: role === 'ledger' ? 'by-rate' : null,
        idempotency: null,
        findsByExternalId: true,
        voids: true,
        longestLateCommitSeconds: 0,
      }),
    )
    writeFileSync(
      join(folder, system, 'settings.json'),
      JSON.stringify({
        baseCurrency: 'USD',
        currencies: ['USD', 'EUR', 'JPY'],
        timeZone: 'UTC',
        taxEnabled: true,
        computesTax: true,
        keepsDocumentNumbers: true,
        pairsCreditsItself: false,
        usesAccountNumbers: true,
        lockedThrough: null,
        defaultItemTaxCode: null,
      }),
    )
    for (const resource of RESOURCES_OF[role].filter((one) => !isMoving(one))) {
      const pages = new Pages(join(folder, system, resource))
      for (const object of data.objects.filter((one) => one.resource === resource))
        pages.add(object.id, object.value)
      pages.end()
    }
  }
}

/** What moves: documents of every kind, and the entries of those that are booked one to one, some of them with another tax. */
export function writeMonth(
  folder: string,
  {
    setUp,
    documents,
    astrayPercent,
    dayOf,
  }: {
    readonly setUp: SetUp
    readonly documents: number
    readonly astrayPercent: number
    readonly dayOf: (at: number) => string
  },
): void {
  const of = Object.fromEntries(
    SYSTEMS.map((system) => [system, new Pages(join(folder, system, 'documents'))]),
  ) as Record<(typeof SYSTEMS)[number], Pages>
  const journal = new Pages(join(folder, 'ledger', 'journal-entries'))
  for (let at = 0; at < documents; at++) {
    const made = documentAt(at, dayOf)
    of[made.system].add(made.id, made.value)
    if (DOCUMENT[made.value.kind].posted)
      journal.add(`e_${at}`, entryOf(made, setUp, (at * 7919) % 10_000 < astrayPercent * 100))
  }
  for (const pages of [...Object.values(of), journal]) pages.end()
}

/** Where changed invoices stand in the order: half of them in the last month, half in the one before, spread over all of it. */
function placesOf(documents: number, changed: number, dayOf: (at: number) => string): number[] {
  return ['2026-09', '2026-08'].flatMap((month) => {
    const invoices: number[] = []
    // The first ten of each twenty are invoices.
    for (let at = 0; at < documents; at++) if (at % 20 < 10 && dayOf(at).startsWith(month)) invoices.push(at)
    const most = Math.min(changed / 2, invoices.length)
    return Array.from(
      { length: most },
      (_, n) => invoices[Math.floor((n * invoices.length) / most)] as number,
    )
  })
}

/**
 * Pages more of billing's documents: so many of before, each to another customer, a tenth of them with one unit more of tax.
 * @returns how many there are
 */
export function writeChanges(
  folder: string,
  {
    documents,
    changed,
    dayOf,
  }: { readonly documents: number; readonly changed: number; readonly dayOf: (at: number) => string },
): number {
  const path = join(folder, 'billing', 'documents')
  const last = readdirSync(join(folder, 'billing'))
    .filter((name) => name.startsWith('documents.'))
    .map((name) => Number(name.split('.')[1]))
    .sort((a, b) => a - b)
    .at(-1)
  const { next } = JSON.parse(readFileSync(`${path}.${last ?? 0}.json`, 'utf8')) as { next: string }
  const pages = new Pages(path, Number(next), '2')
  const places = placesOf(documents, changed, dayOf)
  for (const [place, at] of places.entries()) {
    const { id, value } = documentAt(at, dayOf)
    const taxed = place % 10 === 0 ? moreTax(value) : {}
    pages.add(id, { ...value, ...taxed, party: { ...value.party, name: `${value.party.name} anew` } })
  }
  pages.end()
  return places.length
}

/** One unit more of its first tax. */
function moreTax({ total, taxes: [tax, ...taxes] }: SourceDocument): object {
  const [part, ...parts] = tax?.components ?? []
  if (!tax || !part) return {}
  const more = (amount: string): string => {
    const units = String(BigInt(amount.replace('.', '')) + 1n).padStart(3, '0')
    return `${units.slice(0, -2)}.${units.slice(-2)}`
  }
  return {
    total: more(total),
    taxes: [
      { ...tax, tax: more(tax.tax), components: [{ ...part, tax: more(part.tax) }, ...parts] },
      ...taxes,
    ],
  }
}

/** The customer of a sale that is not exempt. */
export function partyOf(documents: number, dayOf: (at: number) => string): string {
  return documentAt(Math.floor(documents / 40) * 20, dayOf).value.party.id ?? ''
}

function storedAs({ system, id, value }: Made): StoredDocument {
  const { kind, status } = value
  return {
    system_id: system,
    document_id: id,
    revision: '1',
    status,
    kind,
    value,
    not_taken: null,
    posted: true,
  }
}

/** A ledger's entry for what is expected of a document: who owes it, what is net, and each agency's tax; one unit more of a tax where it is astray. */
function entryOf(
  made: Made,
  { index, currency: books, systems, entityId }: SetUp,
  astray: boolean,
): JournalEntry {
  const system = systems.find((one) => one.row.system_id === made.system)
  if (!system) throw new Error(`${made.system} is not connected`)
  const stored = storedAs(made)
  const family = familiesIn(made.original ? [storedAs(made.original), stored] : [])(stored)
  const { expected, document } = sourceUnit(stored, system, { index, currency: books }, family)
  const inBase = inBaseCurrency(expected, document.exchange)
  const { currency } = document
  const lines = [...netsOf(expected, inBase.nets), ...taxesOf(expected, inBase.facts)]
  const first = lines.at(-1)
  const moved =
    astray && first
      ? [...lines.slice(0, -1), { ...first, amount: first.amount + 1n, base: first.base + 1n }]
      : lines
  const owed = {
    account: '1100',
    agency: null,
    rate: null,
    amount: -sum(moved.map((line) => line.amount)),
    base: -sum(moved.map((line) => line.base)),
  }
  const sides = (amount: bigint, code: string): [string, string] =>
    amount < 0n
      ? [formatAmount(-amount, code), formatAmount(0n, code)]
      : [formatAmount(0n, code), formatAmount(amount, code)]
  return {
    number: made.value.number,
    bookingId: `b_${made.id}`,
    externalId: `${entityId}/${made.system}/${made.id}/${made.value.kind}`,
    bookingRevision: '1',
    postingDate: made.value.documentDate,
    currency,
    baseCurrency: books,
    memo: '',
    voided: false,
    changedBy: 'bridge',
    changedAt: `${made.value.documentDate}T00:00:00Z`,
    webAddress: null,
    lines: [owed, ...moved].map((line) => {
      const [debit, credit] = sides(line.amount, currency)
      const [baseDebit, baseCredit] = currency === books ? [null, null] : sides(line.base, books)
      return {
        accountId: `acct_${line.account}`,
        description: '',
        debit,
        credit,
        agencyId: line.agency === null ? null : `agency_${line.agency}`,
        taxRateId: line.rate,
        base: null,
        baseDebit,
        baseCredit,
        dimensionIds: [],
      }
    }),
  }
}

interface EntryLine {
  readonly account: string
  readonly agency: string | null
  readonly rate: string | null
  /** Credit less debit, in the document's currency and in the books'. */
  readonly amount: bigint
  readonly base: bigint
}

const netsOf = ({ nets }: VoiceFacts, inBase: readonly bigint[]): EntryLine[] =>
  nets.map(({ account, net }, at) => ({
    account: account ?? '4000',
    agency: null,
    rate: null,
    amount: net,
    base: inBase[at] ?? 0n,
  }))

function taxesOf({ facts }: VoiceFacts, inBase: readonly bigint[]): EntryLine[] {
  const lines = new Map<string, EntryLine>()
  facts.forEach(({ agency, account, tax }, at) => {
    if (tax === 0n) return
    const before = lines.get(agency ?? '')
    lines.set(agency ?? '', {
      account: account ?? '2299',
      agency,
      rate: null,
      amount: (before?.amount ?? 0n) + tax,
      base: (before?.base ?? 0n) + (inBase[at] ?? 0n),
    })
  })
  return [...lines.values()]
}
