import { kindsWith, type ScopeAmount, type ScopePreview } from '@axion/contract'
import { currencyDigits, formatAmount, sum } from '@axion/core'
import type { Books } from '../database/connection.ts'
import { withDetermination } from '../documents/ids.ts'
import { connectedSystems } from '../setUp/held.ts'

/** SQL: what a document, settlement or bank line comes to in minor units of the base currency; null where no exchange rate says. What takes back counts the other way. */
export const totalInBase = (
  value: string,
  kind: string,
): string => `round(coalesce(${value}->>'total', ${value}->>'amount')::numeric * case when ${value}->>'currency' = :currency then 1 else (${value}->>'exchangeRate')::numeric end * 10::numeric ^ :digits)::bigint
    * case when ${kind} in (${kindsWith((kind) => kind.returns)
      .map((one) => `'${one}'`)
      .join(', ')}) and ${value}->>'total' is not null then -1 else 1 end as total`

/** What a system sent, of whatever kind, with why each is not taken, what it comes to, and the tax it states in the base currency; drafts and voids left out. */
export const DOCUMENTS = `
  select ${totalInBase('d.value', 'd.kind')}, d.number, d.party, d.document_date as day, d.period, d.kind, d.value, d.not_taken,
    coalesce((select sum(f.in_base) from tax_fact f where f.entity_id = d.entity_id and f.unit_id = own.unit_id and f.voice = 'stated'), 0)::bigint as tax,
    exists (select from booking b where b.entity_id = d.entity_id and b.system_id = d.system_id and b.document_id = d.document_id and b.kind = d.kind and b.ledger_booking_id is not null) as booked
  from document d ${withDetermination('d')} where d.entity_id = :e and d.system_id = :s and d.status not in ('draft', 'void')
  union all
  select ${totalInBase('r.value', 'r.kind')}, r.number, '', r.day, r.period, r.kind, r.value, r.not_taken, null, false
  from held_record r where r.entity_id = :e and r.system_id = :s and not r.removed`

export interface Sums {
  readonly documents: number
  readonly tax: string | null
  readonly total: string | null
}

/** What a group of documents comes to; nothing is said of a total that some lack. */
export const SUMS = `count(*)::int as documents, sum(tax)::text as tax, case when count(*) = count(total) then sum(total) end::text as total`
export const bound = (
  entityId: string,
  systemId: string,
  currency: string,
): Record<string, string | number> => ({
  e: entityId,
  s: systemId,
  currency,
  digits: currencyDigits(currency),
})

/** Of bank lines and settlements nobody states a tax: null, and never nil. */
export function amountOf(groups: readonly Sums[], currency: string): ScopeAmount {
  const [taxes, totals] = (['tax', 'total'] as const).map((of) =>
    groups.flatMap((group) => (group[of] === null ? [] : [BigInt(group[of])])),
  )
  return {
    documents: groups.reduce((n, group) => n + group.documents, 0),
    tax: groups.length > 0 && taxes?.length === 0 ? null : formatAmount(sum(taxes ?? []), currency),
    total: totals?.length === groups.length ? formatAmount(sum(totals), currency) : null,
  }
}

interface MovedRow extends Sums {
  readonly what: 'leaves' | 'comes' | 'staysBooked' | null
}

/** What of a system another scope, in SQL, would move, over all months. */
export async function movedUnder(
  { trx, entityId, currency }: Books,
  systemId: string,
  { scope, bindings }: { readonly scope: string; readonly bindings: Readonly<Record<string, string | null>> },
): Promise<readonly MovedRow[]> {
  const { rows } = (await trx.raw(
    `select case when booked then case when after is not null then 'staysBooked' end when before is null and after is not null then 'leaves' when before is not null and after is null then 'comes' end as what, ${SUMS}
     from (select not_taken as before, why_not_taken(${scope}, day, kind, value) as after, tax, total, booked from (${DOCUMENTS}) d) x group by 1`,
    { ...bound(entityId, systemId, currency), ...bindings } as never,
  )) as { rows: MovedRow[] }
  return rows
}

/** The same as amounts. */
export function movesOf(rows: readonly MovedRow[], currency: string): Omit<ScopePreview, 'revision'> {
  const of = (what: MovedRow['what']): ScopeAmount =>
    amountOf(
      rows.filter((row) => row.what === what),
      currency,
    )
  return { currency, leaves: of('leaves'), comes: of('comes'), staysBooked: of('staysBooked') }
}

/** What all systems sent that is dated before a day: read for reference, and not for the books. Nothing where there is no such day. */
export async function leftBefore(books: Books, day: string | null): Promise<ScopeAmount> {
  const { trx, entityId, currency } = books
  const sums: Sums[] = []
  for (const { system_id: systemId } of day === null ? [] : await connectedSystems(books)) {
    const { rows } = (await trx.raw(
      `select ${SUMS} from (${DOCUMENTS}) d where day < :day::date and not_taken = 'out-of-range'`,
      { ...bound(entityId, systemId, currency), day } as never,
    )) as { rows: [Sums] }
    sums.push(rows[0])
  }
  return amountOf(
    sums.filter(({ documents }) => documents > 0),
    currency,
  )
}
