import { DOCUMENT, type ChainLine } from '@axion/contract'
import {
  formatAmount,
  formatPercent,
  isTaxed,
  recoverableTax,
  sum,
  type BaselineIndex,
  type TaxRow,
} from '@axion/core'
import { type SourceUnit } from '../../documents/units.ts'
import {
  isUnread,
  NET_ROLES,
  OWING_ROLES,
  oneSided,
  owed,
  twoSided,
  type Open,
  type Parts,
  type Thread,
} from './parts.ts'

export function sourceLink(parts: Parts, thread: Thread): Open {
  const { source, from, currency, unit } = parts
  const wire = source?.stored.value
  const base = {
    role: 'source' as const,
    title: source ? `${DOCUMENT[source.decoded.kind].word} ${unit.number}` : 'No source document',
    detail: from && source ? from.row.name : '',
    address: wire?.webAddress ?? null,
    balance: null,
  }
  if (unit.kind === 'unread')
    return {
      ...base,
      title: unit.number,
      detail: `${from?.row.name ?? ''}: cannot be read`,
      // Where the document stands there is not known either: the way leads to its system.
      address: from?.row.about.webAddress ?? null,
      lines: [],
      units: null,
      silence: 'not-known',
    }
  if (!source || !wire) return { ...base, lines: [], units: null, silence: 'not-stated' }
  if (source.stored.status === 'void')
    return { ...base, detail: `${base.detail}, void`, lines: [], units: 0n, silence: null }
  const { decoded } = source
  const text = (units: bigint): string => formatAmount(units, currency)
  const line = (label: string, of: bigint | null, detail: string, units: bigint): ChainLine =>
    oneSided({ label, base: of === null ? null : text(of), detail }, units, currency)
  const inside = decoded.pricesIncludeTax
    ? [line('less the tax inside', null, '', decoded.net - decoded.total)]
    : []
  const sold = [
    ...decoded.lines.map((l) => line(l.description, null, `× ${l.quantity}`, l.amount)),
    ...(decoded.discount === 0n ? [] : [line('Discount', null, 'on the whole document', -decoded.discount)]),
    ...inside,
  ]
  if (thread.kind === 'net') return { ...base, lines: sold, units: decoded.net, silence: null }
  const taxes = decoded.taxes.flatMap((tax) => {
    const rate = from?.rates.find((r) => r.id === tax.taxRateId)
    if (!tax.components)
      return [
        {
          agency: null,
          label: rate?.value.name ?? tax.taxRateId,
          base: tax.base,
          tax: tax.tax,
          percent: rate?.value.percent,
        },
      ]
    const stated = wire.taxes.find((t) => t.taxRateId === tax.taxRateId)?.components ?? []
    return tax.components.map((c, at) => ({
      agency: from?.agencyOf(c.agencyId) ?? null,
      label:
        rate?.value.components?.find((held) => held.agencyId === c.agencyId)?.name ?? rate?.value.name ?? '',
      base: tax.base,
      tax: c.tax,
      percent: stated[at]?.percent,
    }))
  })
  if (thread.kind === 'whole') {
    const charged = decoded.taxes.map((tax) =>
      line(
        `Tax, ${from?.rates.find((r) => r.id === tax.taxRateId)?.value.name ?? tax.taxRateId}`,
        tax.base,
        '',
        tax.tax,
      ),
    )
    return { ...base, lines: [...sold, ...charged], units: decoded.total, silence: null }
  }
  const splits = thread.agency === null || taxes.every((t) => t.agency !== null || t.tax === 0n)
  const own = splits && thread.agency !== null ? taxes.filter((t) => t.agency === thread.agency) : taxes
  const lines = own.map((t) =>
    line(t.label, t.base, t.percent && Number(t.percent) !== 0 ? `at ${t.percent}\u00a0%` : '', t.tax),
  )
  return {
    ...base,
    lines,
    units: splits ? sum(own.map((t) => t.tax)) : null,
    silence: splits ? null : 'not-stated',
  }
}

const UNTAXED: Readonly<Partial<Record<TaxRow['reason'], string>>> = {
  exempt: 'exempt',
  'zero-rated': 'zero-rated',
  'out-of-scope': 'outside the scope',
  'below-threshold': 'below the threshold',
  certificate: 'certificate',
  marketplace: 'collected by the marketplace',
  'not-registered': 'not registered',
}

/** The rules that decided a line of it, by name. */
function rulesOf({ document }: SourceUnit, { baseline }: BaselineIndex): string[] {
  const ids = new Set(document.lines.flatMap((line) => line.decision?.rules ?? []))
  const names = [...new Set(baseline.lineRules.filter((rule) => ids.has(rule.id)).map((rule) => rule.name))]
  return names.length === 0 ? [] : [`by the ${names.length === 1 ? 'rule' : 'rules'} ${names.join(', ')}`]
}

export function determinationLink({ source, index, currency, unit }: Parts, thread: Thread): Open {
  const base = {
    role: 'determination' as const,
    title: 'Determination',
    detail: source
      ? [
          source.determination.jurisdictions
            .slice(1)
            .map((j) => j.name)
            .join(', '),
          ...rulesOf(source, index),
        ].join('; ')
      : 'nothing is expected',
    address: null,
    balance: null,
    silence: null,
  }
  if (isUnread(unit))
    return { ...base, detail: 'waits for what cannot be read', lines: [], units: null, silence: 'not-known' }
  if (!source) return { ...base, lines: [], units: 0n }
  if (source.stored.status === 'void')
    return { ...base, detail: 'void: nothing is expected', lines: [], units: 0n }
  const text = (units: bigint): string => formatAmount(units, currency)
  const { rows, lines: nets } = source.determination
  const net = sum(nets.map((line) => line.net))
  const netLine = oneSided(
    {
      label: 'Net of all lines',
      base: null,
      detail: unit.kind === 'credit-note' ? 'as its original, cumulatively' : '',
    },
    net,
    currency,
  )
  if (thread.kind === 'net') return { ...base, lines: [netLine], units: net }
  const agency = thread.kind === 'tax' ? thread.agency : null
  const own = rows.filter((row) => agency === null || row.agencyId === agency)
  const keyOf = (r: TaxRow): string =>
    `${r.jurisdictionId}|${r.percent}|${r.reason}|${r.perUnit ? `${r.perUnit.numerator}/${r.perUnit.denominator}` : ''}`
  const lines = [...new Set(own.map(keyOf))].flatMap((key) => {
    const group = own.filter((row) => keyOf(row) === key)
    const [row] = group
    if (!row) return []
    const name = index.jurisdiction(row.jurisdictionId)?.name ?? row.jurisdictionId
    return isTaxed(row)
      ? [
          {
            ...oneSided(
              {
                label: name,
                base: text(sum(group.map((r) => r.base))),
                detail: row.perUnit
                  ? 'per unit'
                  : `at ${formatPercent(row.percent)}\u00a0%${onTop(row, group, rows, { currency, index })}`,
              },
              sum(group.map((r) => r.tax)),
              currency,
            ),
            since: row.source.rateVersion?.split('@')[1] ?? null,
          },
        ]
      : [
          oneSided(
            {
              label: name,
              base: text(sum(group.map((r) => r.net))),
              detail: UNTAXED[row.reason] ?? row.reason,
            },
            0n,
            currency,
          ),
        ]
  })
  const tax = sum(own.map((r) => r.tax))
  const back = recoverableTax(source.document, source.determination, index).filter(
    (one) => one.recoverable !== 0n && (agency === null || one.agencyId === agency),
  )
  lines.push(
    ...back.map((one) =>
      oneSided(
        {
          label: index.agency(one.agencyId)?.name ?? one.agencyId,
          base: text(one.tax),
          detail: 'of it recoverable',
        },
        one.recoverable,
        currency,
      ),
    ),
  )
  return thread.kind === 'whole'
    ? { ...base, lines: [netLine, ...lines], units: net + tax }
    : { ...base, lines, units: tax }
}

/** The earlier tax that stands in the base beside it (tax on tax), by whose it is. */
function onTop(
  row: TaxRow,
  group: readonly TaxRow[],
  rows: readonly TaxRow[],
  { currency, index }: { readonly currency: string; readonly index: BaselineIndex },
): string {
  const lines = new Set(group.map((one) => one.lineId))
  const earlier = row.onTopOf.flatMap((id) => {
    const tax = sum(rows.filter((r) => r.jurisdictionId === id && lines.has(r.lineId)).map((r) => r.tax))
    return tax === 0n ? [] : [`${formatAmount(tax, currency)} of ${index.jurisdiction(id)?.name ?? id}`]
  })
  return earlier.length === 0 ? '' : `, also on the ${earlier.join(' and ')}`
}

export function bookingLink({ booking, index, currency }: Parts, thread: Thread): Open {
  const base = {
    role: 'booking' as const,
    title: booking ? `Booking, revision ${booking.revision}` : 'Booking',
    detail: booking?.state.replace('-', ' ') ?? 'not composed yet',
    address: null,
    balance: null,
  }
  if (!booking?.journal) return { ...base, lines: [], units: null, silence: 'not-composed' }
  const lines = booking.journal.lines
    .map((line) => ({ ...line, debit: BigInt(line.debit), credit: BigInt(line.credit) }))
    .filter(
      (line) =>
        thread.kind === 'whole' ||
        (thread.kind === 'net'
          ? NET_ROLES.includes(line.role)
          : line.role === 'tax' && (thread.agency === null || line.agencyId === thread.agency)),
    )
  return {
    ...base,
    silence: null,
    units:
      thread.kind === 'whole'
        ? owed(lines.filter((line) => OWING_ROLES.includes(line.role)))
        : sum(lines.map((line) => line.credit - line.debit)),
    lines: lines.map((line) =>
      twoSided(
        {
          label: line.account,
          detail: line.agencyId === null ? line.role : (index.agency(line.agencyId)?.name ?? ''),
        },
        line.debit,
        line.credit,
        currency,
      ),
    ),
  }
}
