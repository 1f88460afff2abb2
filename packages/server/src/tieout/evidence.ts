import { ALIGN_KINDS, LINK_KIND_OF, type Evidence, type EvidenceMember, type Selector } from '@axion/contract'
import { formatAmount, sum } from '@axion/core'
import { ensureAligned } from '../align/build.ts'
import { loadBaseline } from '../baseline/load.ts'
import type { Books } from '../database/connection.ts'
import { likePattern } from '../database/like.ts'
import { BOUGHT, NOT_POSTED } from '../documents/notPosted.ts'
import { SPECIAL_GROUP } from '../documents/specialLines.ts'
import { Problem } from '../faults/problem.ts'
import { balanceGap, balanceMembers } from './balances.ts'
import { chainOf } from './chain/chain.ts'

interface MemberRow {
  readonly unit: string
  readonly number: string
  readonly party: string
  readonly agency: string | null
  readonly account: string | null
  readonly amount: string
}

/**
 * What stands behind an amount: the members that sum to it exactly, or, for one document and agency, its chain from
 * source line to liability account. Read from the same rows as the amount itself.
 */
export async function evidence(books: Books, month: string, selector: Selector): Promise<Evidence> {
  const { currency } = books
  if (selector.of === 'balance') return balanceMembers(books, month, selector)
  if (selector.of === 'gap' && selector.voice === undefined)
    throw new Problem('AXION_BAD_REQUEST', { path: 'voice', problem: 'is needed for a gap' })
  if (selector.of === 'gap' && selector.against === 'balance') return balanceGap(books, month, selector)
  const rows =
    selector.of === 'stake'
      ? await stakeMembers(books, month, selector)
      : selector.of === 'lines'
        ? await specialMembers(books, month, selector)
        : await membersOf(books, month, selector)

  const single = selector.unit !== undefined
  const wholeDocument = ['net', 'unproved-net', 'stake', 'total', 'lines'].includes(selector.of)
  const oneAgency = wholeDocument || new Set(rows.map((row) => row.agency ?? '')).size <= 1
  if (single && (oneAgency || selector.agency !== undefined)) {
    const amount = sum(rows.map((row) => BigInt(row.amount)))
    const agency = selector.agency ?? (wholeDocument ? undefined : (rows[0]?.agency ?? undefined))
    return chainOf(books, month, { ...selector, ...(agency === undefined ? {} : { agency }) }, amount)
  }
  const index = await loadBaseline(books)
  const groups = single ? rows : byUnit(rows)
  const members = groups
    .filter((row) => BigInt(row.amount) !== 0n)
    .map((row): EvidenceMember => {
      const agencyName =
        row.agency === null ? 'No agency named' : (index.agency(row.agency)?.name ?? row.agency)
      return {
        label: single ? agencyName : row.number,
        detail: single ? (row.account ?? '') : row.party,
        amount: formatAmount(BigInt(row.amount), currency),
        open: { ...selector, unit: row.unit, ...(single ? { agency: row.agency ?? '' } : {}) },
      }
    })
  return {
    kind: 'members',
    selector,
    currency,
    amount: formatAmount(sum(groups.map((row) => BigInt(row.amount))), currency),
    members,
  }
}

async function membersOf({ trx, entityId }: Books, month: string, selector: Selector): Promise<MemberRow[]> {
  const { from, amount, perRow } =
    SOURCES[
      selector.of === 'balance' || selector.of === 'stake' || selector.of === 'lines' ? 'tax' : selector.of
    ]
  const bindings = {
    entityId,
    month,
    unit: selector.unit ?? '',
    cause: selector.cause ?? '',
    agency: selector.agency ?? '',
    account: selector.account ?? '',
    search: likePattern(selector.search ?? ''),
    states: (selector.state ?? '').split(','),
    bought: [...BOUGHT],
  }
  const where = [
    selector.unit === undefined ? 'u.entity_id = :entityId and u.period = :month' : 'u.entity_id = :entityId',
    selector.unit === undefined ? '' : 'u.named = :unit',
    selector.cause === undefined ? '' : 'u.cause = :cause',
    selector.state === undefined ? '' : 'p.state = any(:states)',
    // What is not taken counts nowhere but by itself, and where Post shows it as such.
    selector.unit === undefined && selector.state === undefined ? 'u.taken' : '',
    selector.notPosted === undefined ? '' : NOT_POSTED[selector.notPosted]('u'),
    selector.only === undefined ? '' : 'not u.proved and u.cause is not null',
    selector.search === undefined ? '' : '(u.number ilike :search or u.party ilike :search)',
    selector.agency === undefined || !perRow ? '' : `coalesce(m.agency, '') = :agency`,
    selector.account === undefined || !perRow ? '' : `coalesce(m.account, '') = :account`,
  ]
    .filter(Boolean)
    .join(' and ')
  const { rows } = (await trx.raw(
    `select u.named as unit, u.number, u.party, ${perRow ? 'm.agency, m.account' : 'null as agency, null as account'}, ${amount(selector)} as amount
     from ${selector.unit === undefined && selector.notPosted === undefined ? 'tie_unit' : 'unit'} u ${from}
     ${selector.state === undefined ? '' : 'join post_line p on p.entity_id = u.entity_id and p.system_id = u.system_id and p.document_id = u.document_id'}
     where ${where} group by u.entity_id, u.unit_id, u.named, u.number, u.party, u.document_date${perRow ? ', m.agency, m.account' : ''}${selector.sign === undefined ? '' : ` having ${amount(selector)} ${selector.sign === 'over' ? '>' : '<'} 0`}
     order by abs(${amount(selector)}) desc, u.document_date, u.number`,
    bindings,
  )) as { rows: MemberRow[] }
  return rows
}

/** Documents with something at stake, booked one to one or not: each once, at its largest. */
async function stakeMembers(books: Books, month: string, selector: Selector): Promise<MemberRow[]> {
  await ensureAligned(books, month)
  const { rows } = (await books.trx.raw(
    `select u.named as unit, u.number, u.party, null as agency, null as account, max(s.amount)::bigint as amount
     from stake_share s join unit u using (entity_id, unit_id)
     where s.entity_id = :entityId and (:unit::text is not null and u.named = :unit or :unit::text is null and s.period = :month)
       and (case when :findings::text[] is null then s.finding_key in (select unnest(keys) from align_row a where a.entity_id = :entityId and a.period = :month and (:kind::text is null or a.kind = :kind)) else s.finding_key = any(:findings) end)
     group by 1, 2, 3 order by max(s.amount) desc, 2`,
    {
      entityId: books.entityId,
      month,
      unit: selector.unit ?? null,
      findings: selector.finding?.split(',') ?? null,
      kind:
        ALIGN_KINDS.find((align) => selector.kind !== undefined && LINK_KIND_OF[align] === selector.kind) ??
        null,
    },
  )) as { rows: MemberRow[] }
  return rows
}

/** Documents with lines of a group, or that a rule decided. */
async function specialMembers(
  { trx, entityId }: Books,
  month: string,
  selector: Selector,
): Promise<MemberRow[]> {
  const { rows } = (await trx.raw(
    `select u.named as unit, u.number, u.party, null as agency, null as account, sum(s.amount)::bigint as amount
     from special_line s join unit u using (entity_id, unit_id)
     where s.entity_id = :entityId and s.period = :month and (:unit::text is null or u.named = :unit) and (:group::text is null or ${SPECIAL_GROUP} = :group and s.what <> 'item') and (:rule::text is null or :rule = any(s.rules))
     group by 1, 2, 3 order by abs(sum(s.amount)) desc, 2`,
    {
      entityId,
      month,
      unit: selector.unit ?? null,
      group: selector.group ?? null,
      rule: selector.rule ?? null,
    },
  )) as { rows: MemberRow[] }
  return rows
}

interface Source {
  readonly from: string
  readonly perRow: boolean
  readonly amount: (selector: Selector) => string
}
const VOICE_COLUMN = { stated: 'm.stated', expected: 'm.expected', booked: 'm.booked' } as const
const column = (voice: Selector['voice']): string => VOICE_COLUMN[voice ?? 'expected']
const MEMBER = 'join unit_member m on m.entity_id = u.entity_id and m.unit_id = u.unit_id'
const UNSPLIT = `case when m.stated is null and not u.split_stated then m.expected else m.stated end`
const SOURCES: Readonly<Record<Exclude<Selector['of'], 'balance' | 'stake' | 'lines'>, Source>> = {
  tax: { from: MEMBER, perRow: true, amount: ({ voice }) => `coalesce(sum(${column(voice)}), 0)::bigint` },
  gap: {
    from: MEMBER,
    perRow: true,
    // What a source does not split is not held against it.
    amount: ({ voice, against }) =>
      `(coalesce(sum(${column(voice)}), 0) - coalesce(sum(${against === 'stated' ? UNSPLIT : column(against as Selector['voice'])}), 0))::bigint`,
  },
  unproved: {
    from: 'join open_share m on m.entity_id = u.entity_id and m.unit_id = u.unit_id',
    perRow: true,
    amount: () => 'coalesce(sum(m.tax), 0)::bigint',
  },
  'unproved-net': { from: '', perRow: false, amount: () => 'max(u.unproved_net)::bigint' },
  net: {
    from: 'join net_fact m on m.entity_id = u.entity_id and m.unit_id = u.unit_id',
    perRow: false,
    amount: ({ voice }) =>
      `coalesce(sum(m.in_base) filter (where m.voice = '${voice ?? 'stated'}'), 0)::bigint`,
  },
  total: {
    from: '',
    perRow: false,
    amount:
      () => `((select coalesce(sum(in_base), 0) from net_fact n where n.entity_id = :entityId and n.unit_id = u.unit_id and n.voice = 'stated')
      + (select coalesce(sum(in_base), 0) from tax_fact t where t.entity_id = :entityId and t.unit_id = u.unit_id and t.voice = 'stated'))::bigint`,
  },
}

function byUnit(rows: readonly MemberRow[]): MemberRow[] {
  const units = new Map<string, MemberRow>()
  for (const row of rows) {
    const known = units.get(row.unit)
    units.set(
      row.unit,
      known ? { ...known, amount: (BigInt(known.amount) + BigInt(row.amount)).toString() } : row,
    )
  }
  return [...units.values()]
}
