import { say, type Foretold, type PostingPreview } from '@axion/contract'
import { formatAmount, groupBy, type Facts } from '@axion/core'
import { loadHeld } from '../connect/held.ts'
import type { Transaction } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'
import type { Remark } from './remark.ts'
import { FORETOLD, FORETOLD_PREFIX } from './foretell.ts'
import { OF_A_DOCUMENT, states, VOIDED_THERE } from './states.ts'

/** SQL, of a booking `b`: it has a remark beside what is foretold, which has a list of its own. */
const REMARKED = `exists (select from jsonb_array_elements(b.findings) f where not starts_with(f->>'code', '${FORETOLD_PREFIX}'))`

/** What posting these documents would move: tax and total, whose books, and each account. Nothing leaves. */
export async function previewPosting(
  trx: Transaction,
  entityId: string,
  currency: string,
  units: readonly string[],
): Promise<PostingPreview> {
  const ledger = (await loadHeld(trx, entityId)).find((s) => s.row.role === 'ledger')
  if (!ledger) throw new Problem('AXION_NO_LEDGER')
  const of = { entity: entityId, units: [...units] }
  const sums = (await trx.raw(
    `select count(*)::int as documents, coalesce(sum(t.tax), 0)::bigint::text as tax, coalesce(sum(t.tax) + sum(n.net), 0)::bigint::text as total,
       (count(*) filter (where b.journal is null or b.state in ${states('changed', 'withdrawn')}))::int as uncomposed,
       (count(*) filter (where ${REMARKED}))::int as remarked, coalesce(sum(abs(t.tax)) filter (where ${REMARKED}), 0)::bigint::text as remarked_tax
     from source_document d
     left join booking b on b.entity_id = d.entity_id and b.system_id = d.system_id and b.document_id = d.document_id and b.kind = d.kind
     left join lateral (select coalesce(sum(f.in_base), 0) as tax from tax_fact f where f.entity_id = d.entity_id and f.unit_id = 'doc:' || d.system_id || ':' || d.document_id and f.voice = 'stated') t on true
     left join lateral (select coalesce(sum(f.in_base), 0) as net from net_fact f where f.entity_id = d.entity_id and f.unit_id = 'doc:' || d.system_id || ':' || d.document_id and f.voice = 'stated') n on true
     where d.entity_id = :entity and 'doc:' || d.system_id || ':' || d.document_id = any(:units)`,
    of,
  )) as {
    rows: {
      documents: number
      tax: string
      total: string
      uncomposed: number
      remarked: number
      remarked_tax: string
    }[]
  }
  const accounts = (await trx.raw(
    `select line->>'account' as account, b.currency, sum((line->>'debit')::numeric)::bigint::text as debit, sum((line->>'credit')::numeric)::bigint::text as credit
     from booking b, jsonb_array_elements(b.journal->'lines') line
     where b.entity_id = :entity and ${OF_A_DOCUMENT} and b.state not in ${states('changed', 'withdrawn')} and 'doc:' || b.system_id || ':' || b.document_id = any(:units)
     group by 1, 2 order by b.currency <> :currency, 1`,
    { ...of, currency },
  )) as { rows: { account: string; currency: string; debit: string; credit: string }[] }
  const voided = (await trx.raw(
    `select count(*)::int as n from booking b where b.entity_id = :entity and ${VOIDED_THERE} and 'doc:' || b.system_id || ':' || b.document_id = any(:units)`,
    of,
  )) as { rows: { n: number }[] }
  const [sum] = sums.rows
  const foretold = await foretoldOf(trx, of, currency)
  return {
    foretold,
    currency,
    ledger: ledger.row.name,
    company: ledger.row.about.company.name,
    documents: sum?.documents ?? 0,
    tax: formatAmount(BigInt(sum?.tax ?? '0'), currency),
    total: formatAmount(BigInt(sum?.total ?? '0'), currency),
    uncomposed: sum?.uncomposed ?? 0,
    voidedThere: voided.rows[0]?.n ?? 0,
    accounts: accounts.rows.map((row) => ({
      account: `${ledger.accountName(row.account)}${row.currency === currency ? '' : `, in ${row.currency}`}`,
      debit: formatAmount(BigInt(row.debit), row.currency),
      credit: formatAmount(BigInt(row.credit), row.currency),
    })),
    remarked: {
      documents: sum?.remarked ?? 0,
      tax: formatAmount(BigInt(sum?.remarked_tax ?? '0'), currency),
    },
  }
}

interface RemarkedRow {
  readonly findings: readonly Remark[]
  readonly tax: string
}

/** What is foretold of documents, each cause with how many and how much; what was not composed yet tells nothing. */
async function foretoldOf(
  trx: Transaction,
  of: { readonly entity: string; readonly units: readonly string[] },
  currency: string,
): Promise<Foretold> {
  const { rows } = (await trx.raw(
    `select b.findings, abs(coalesce(t.tax, 0))::bigint::text as tax from booking b
     left join lateral (select sum(f.in_base) as tax from tax_fact f where f.entity_id = b.entity_id and f.unit_id = 'doc:' || b.system_id || ':' || b.document_id and f.voice = 'stated') t on true
     where b.entity_id = :entity and ${OF_A_DOCUMENT} and b.state not in ${states('changed', 'withdrawn')} and ${FORETOLD} and 'doc:' || b.system_id || ':' || b.document_id = any(:units)`,
    of as never,
  )) as { rows: RemarkedRow[] }
  const told = rows.flatMap(({ findings, tax }) => {
    const own = findings.filter(({ code }) => code.startsWith(FORETOLD_PREFIX))
    return [...new Map(own.map((one) => [causeOf(one), one])).entries()].map(([key, { code, facts }]) => ({
      key,
      code,
      facts,
      tax,
    }))
  })
  const causes = [...groupBy(told, ({ key }) => key).values()].flatMap((same) => {
    const [first] = same
    return first
      ? [
          {
            code: first.code,
            ...say(first.code, alike(first.facts)),
            documents: same.length,
            units: total(same),
          },
        ]
      : []
  })
  return {
    documents: rows.length,
    tax: formatAmount(total(rows), currency),
    causes: causes
      .sort((a, b) => (a.units === b.units ? b.documents - a.documents : b.units > a.units ? 1 : -1))
      .map(({ units, ...cause }) => ({ ...cause, tax: formatAmount(units, currency) })),
  }
}

const total = (rows: readonly { readonly tax: string }[]): bigint =>
  rows.reduce((sum, { tax }) => sum + BigInt(tax), 0n)

/** What documents with one cause share: not their number, nor their amounts. */
function alike({ number: _number, would: _would, should: _should, ...facts }: Facts): Facts {
  return facts
}

function causeOf({ code, facts }: Remark): string {
  return `${code} ${JSON.stringify(alike(facts))}`
}
