import { createHash } from 'node:crypto'
import { findingOf, wordsOf, SEVERITIES, type FindingCode, type SpecialLine } from '@axion/contract'
import type { Facts } from '@axion/core'
import type { Books } from '../../database/connection.ts'
import { insertRows } from '../../database/insert.ts'
import { SPECIAL_GROUP } from '../../documents/specialLines.ts'
import { loadHeld } from '../../setUp/held.ts'

/** Lines alike of a month that are no item of the catalogue (C3): of one system, with one wording. */
export interface AmountGroup {
  readonly key: string
  readonly what: SpecialLine
  readonly system: string
  readonly wording: string
  readonly documents: number
  readonly amount: string
  readonly codes: readonly (string | null)[]
  readonly accounts: readonly (string | null)[]
  readonly rules: readonly string[]
  readonly open: boolean
  readonly mixed: boolean
  readonly cost: boolean
}

/** What is open first, then the largest. A cost is one of what is sold: what is bought may be one, and taxed. */
export async function amountGroups(books: Books, month: string): Promise<AmountGroup[]> {
  const ledger = (await loadHeld(books, ['accounts'])).find(({ row }) => row.role === 'ledger')
  const costs = (ledger?.accounts ?? [])
    .filter(({ value }) => value.type === 'expense')
    .map(({ value }) => value.number)
  const { rows } = (await books.trx.raw(
    `with lines as (select s.*, ${SPECIAL_GROUP} as key from special_line s where s.entity_id = :e and s.period = :p and s.what <> 'item'),
       mixed as (select distinct key from (select key from lines where what in ('no-item', 'unknown-item') group by key, region having bool_or(taxed = 'taxed') and bool_or(taxed = 'untaxed')) m),
       ruled as (select key, array_agg(distinct rule) as rules from lines, unnest(rules) rule group by key)
     select key, l.what, y.name as system, l.wording, count(distinct l.unit_id)::int as documents, sum(l.amount)::bigint::text as amount, array_agg(distinct l.item_tax_code) as codes, array_agg(distinct l.account) as accounts, coalesce(r.rules, '{}') as rules,
       bool_or(l.open) as open, m.key is not null as mixed, y.role <> 'purchasing' and coalesce(bool_or(l.taxed = 'taxed' and l.account = any(:costs)), false) as cost
     from lines l join system y on y.entity_id = l.entity_id and y.system_id = l.system_id left join mixed m using (key) left join ruled r using (key)
     group by key, l.what, y.name, y.role, l.wording, r.rules, m.key order by bool_or(l.open) desc, abs(sum(l.amount)) desc, key`,
    { e: books.entityId, p: month, costs },
  )) as { rows: AmountGroup[] }
  return rows
}

/** What the findings of a group are kept under: its key, cut where it is longer than an index takes. */
export function amountRowId(key: string): string {
  return key.length <= 250
    ? key
    : `${key.slice(0, 200)} ${createHash('sha256').update(key).digest('base64url')}`
}

function findingsOf({
  wording,
  system,
  what,
  codes,
  open,
  mixed,
  cost,
}: AmountGroup): readonly { readonly code: FindingCode; readonly facts: Facts }[] {
  const facts = { name: wording, system }
  return [
    ...(open
      ? [
          findingOf('AXION_AMOUNT_OPEN', {
            ...facts,
            lacks: what !== 'reimbursement' && codes.includes(null) ? 'treatment' : 'account',
          }),
        ]
      : []),
    ...(mixed ? [findingOf('AXION_AMOUNT_MIXED', facts)] : []),
    ...(cost ? [findingOf('AXION_COST_TAXED', facts)] : []),
  ]
}

/** Writes the month's findings among these amounts, beside those of the grids; what somebody left with a reason stays left. */
export async function noteAmounts(books: Books, month: string): Promise<void> {
  const { trx, entityId } = books
  const here = { entity_id: entityId, period: month, kind: 'amounts' }
  for (const table of ['align_row', 'align_finding']) await trx(table).where(here).delete()
  const left = new Map(
    (await trx('align_left').where({ entity_id: entityId, kind: 'amounts' })).map(
      ({ row_id, code, reason, person, at }) => [
        `${row_id}|${code}`,
        { reason, person, at: at.toISOString() },
      ],
    ),
  )
  const found = (await amountGroups(books, month)).flatMap((group) => {
    const row_id = amountRowId(group.key)
    const findings = findingsOf(group).map((finding) => ({
      ...finding,
      severity: wordsOf(finding.code).severity,
      left_because: left.get(`${row_id}|${finding.code}`) ?? null,
    }))
    return findings.length === 0 ? [] : [{ row_id, group, findings }]
  })
  await insertRows(
    trx,
    'align_row',
    found.map(({ row_id, group: { wording, system, documents }, findings }, place) => {
      const counting = findings.filter(({ left_because }) => left_because === null)
      return {
        ...here,
        row_id,
        place,
        shared: false,
        extra: null,
        name: wording,
        grp: system,
        detail: '',
        total: '',
        cells: [],
        search: '',
        findings: counting.length,
        worst: Math.max(
          -1,
          ...counting.map(({ severity }) => SEVERITIES.length - 1 - SEVERITIES.indexOf(severity)),
        ),
        keys: [],
        stake: '0',
        documents,
        clear: 0,
      }
    }),
  )
  await insertRows(
    trx,
    'align_finding',
    found.flatMap(({ row_id, findings }) =>
      findings.map((finding, place) => ({
        ...here,
        row_id,
        place,
        ...finding,
        system_id: null,
        finding_key: null,
      })),
    ),
  )
}
