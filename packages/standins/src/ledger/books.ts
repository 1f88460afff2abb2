import { percentOf, toText, toUnits } from '../shared/exact.ts'
import { Refusal } from '../shared/problems.ts'
import type { Writer } from '../shared/store.ts'

export interface LedgerRate {
  readonly code: string | null
  readonly name: string
  readonly percent: string
  readonly active: boolean
  readonly components: readonly { readonly agencyId: string; readonly name: string; readonly percent: string; readonly from: string | null; readonly to: string | null }[] | null
}
export interface LedgerAgency { readonly code: string | null; readonly name: string; readonly liabilityAccountId: string | null }
export interface LedgerAccount { readonly number: string; readonly name: string; readonly type: string }
export interface BookingRequest {
  readonly externalId: string
  readonly number: string
  readonly kind: string
  readonly postingDate: string
  readonly currency: string
  readonly party: { readonly id: string; readonly name: string }
  readonly receivableAccountId: string
  readonly memo: string
  readonly lines: readonly { readonly id: string; readonly description: string; readonly accountId: string; readonly net: string; readonly taxRate: { readonly id?: string; readonly name?: string } | null }[]
  readonly taxes: readonly { readonly agencyId: string; readonly accountId: string; readonly base: string; readonly tax: string }[] | null
}
export interface EntryLine {
  readonly accountId: string
  readonly description: string
  readonly debit: string
  readonly credit: string
  readonly agencyId: string | null
  readonly taxRateId: string | null
  readonly base: string | null
}
export interface LedgerSettings {
  readonly company: { readonly id: string; readonly name: string }
  readonly baseCurrency: string
  readonly currencies: readonly string[]
  readonly timeZone: string
  readonly keepsDocumentNumbers: boolean
  readonly lockedThrough: string | null
  readonly taxComputation: 'by-rate' | 'as-given'
  readonly keepsKeysSeconds: number
  readonly longestLateCommitSeconds: number | null
}

/**
 * Writes the journal of a booking with this ledger's own rates, accounts and rounding:
 * tax by document and component, half up. By rate, or as given.
 */
export async function journalOf(writer: Writer, request: BookingRequest, settings: LedgerSettings): Promise<EntryLine[]> {
  const { currency } = request
  if (settings.lockedThrough !== null && request.postingDate <= settings.lockedThrough) {
    throw new Refusal(422, 'period-locked', `The books are locked through ${settings.lockedThrough}; ${request.number} is dated ${request.postingDate}.`)
  }
  if (!settings.currencies.includes(currency)) throw new Refusal(422, 'currency-not-in-use', `${currency} is not in use in this company.`)

  const sales: EntryLine[] = []
  for (const line of request.lines) {
    await requireAccount(writer, line.accountId)
    sales.push(side({ accountId: line.accountId, description: line.description, agencyId: null, taxRateId: null, base: null }, toUnits(line.net, currency), currency))
  }
  const taxes = settings.taxComputation === 'by-rate' ? await taxesByRate(writer, request) : await taxesAsGiven(writer, request)
  const owed = [...sales, ...taxes].reduce((total, l) => total + toUnits(l.credit, currency) - toUnits(l.debit, currency), 0n)
  await requireAccount(writer, request.receivableAccountId)
  const receivable = side({ accountId: request.receivableAccountId, description: request.party.name, agencyId: null, taxRateId: null, base: null }, -owed, currency)
  return [receivable, ...sales, ...taxes]
}

async function taxesByRate(writer: Writer, request: BookingRequest): Promise<EntryLine[]> {
  const groups = new Map<string, { agencyId: string; rateId: string; name: string; percent: string; base: bigint }>()
  for (const line of request.lines) {
    if (line.taxRate === null) continue
    const { id: rateId, value: rate } = await rateOf(writer, line.taxRate, request.number)
    const flat = [{ agencyId: '', name: rate.name, percent: rate.percent, from: null, to: null }]
    for (const component of rate.components ?? flat) {
      if ((component.from !== null && request.postingDate < component.from) || (component.to !== null && request.postingDate > component.to)) continue
      const key = `${rateId}|${component.agencyId}|${component.name}`
      const group = groups.get(key) ?? { agencyId: component.agencyId, rateId, name: component.name, percent: component.percent, base: 0n }
      group.base += toUnits(line.net, request.currency)
      groups.set(key, group)
    }
  }
  const lines: EntryLine[] = []
  for (const { agencyId, rateId, name, percent, base } of groups.values()) {
    const agency = await agencyOf(writer, agencyId, name)
    const tax = percentOf(base, percent)
    const line = { accountId: agency.liabilityAccountId ?? '', description: `${name} ${percent} %`, agencyId, taxRateId: rateId, base: toText(base, request.currency) }
    if (tax !== 0n) lines.push(side(line, tax, request.currency))
  }
  return lines
}

async function taxesAsGiven(writer: Writer, request: BookingRequest): Promise<EntryLine[]> {
  const lines: EntryLine[] = []
  for (const tax of request.taxes ?? []) {
    await requireAccount(writer, tax.accountId)
    const agency = await agencyOf(writer, tax.agencyId, tax.agencyId)
    lines.push(side({ accountId: tax.accountId, description: agency.name, agencyId: tax.agencyId, taxRateId: null, base: tax.base }, toUnits(tax.tax, request.currency), request.currency))
  }
  return lines
}

async function rateOf(writer: Writer, wanted: { readonly id?: string; readonly name?: string }, number: string): Promise<{ id: string; value: LedgerRate }> {
  const rates = await writer.all<LedgerRate>('tax-rates')
  const found = rates.find((rate) => rate.value.active && (rate.id === wanted.id || (wanted.id === undefined && rate.value.name === wanted.name)))
  if (!found) throw new Refusal(422, 'unknown-tax-rate', `The tax rate "${wanted.name ?? wanted.id}" on ${number} is not known in this ledger.`)
  return found
}

async function agencyOf(writer: Writer, id: string, name: string): Promise<LedgerAgency> {
  const agency = (await writer.get<LedgerAgency>('agencies', id))?.value
  if (!agency?.liabilityAccountId) throw new Refusal(422, 'no-liability-account', `No liability account is set for "${agency?.name ?? name}".`)
  return agency
}

async function requireAccount(writer: Writer, id: string): Promise<void> {
  if (!(await writer.get('accounts', id))) throw new Refusal(422, 'unknown-account', `There is no account "${id}" in this ledger.`)
}

function side(line: Omit<EntryLine, 'debit' | 'credit'>, credit: bigint, currency: string): EntryLine {
  const text = toText(credit < 0n ? -credit : credit, currency)
  const nil = toText(0n, currency)
  return credit < 0n ? { ...line, debit: text, credit: nil } : { ...line, debit: nil, credit: text }
}
