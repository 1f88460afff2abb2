import type { PostingPreview } from '@axion/contract'
import { formatAmount } from '@axion/core'
import { loadHeld } from '../connect/held.ts'
import type { Transaction } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'
import { OF_A_DOCUMENT, states, VOIDED_THERE } from './states.ts'

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
       (count(*) filter (where coalesce(b.findings, '[]') <> '[]'))::int as remarked, coalesce(sum(abs(t.tax)) filter (where coalesce(b.findings, '[]') <> '[]'), 0)::bigint::text as remarked_tax
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
  return {
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
