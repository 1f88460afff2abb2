import { DOCUMENT, type ChainLine } from '@axion/contract'
import {
  formatAmount,
  formatPercent,
  groupBy,
  isTaxed,
  recoverableTax,
  sum,
  type BaselineIndex,
  type TaxRow,
} from '@axion/core'
import { UNTAXED } from '../../documents/reasons.ts'
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
  const sold = soldLines(parts, source)
  if (thread.kind === 'net') return { ...base, lines: sold, units: decoded.net, silence: null }
  if (thread.kind === 'whole')
    return {
      ...base,
      lines: [...sold, ...chargedLines(parts, source)],
      units: decoded.total,
      silence: null,
    }
  const taxes = statedTaxes(parts, source)
  const splits = thread.agency === null || taxes.every((t) => t.agency !== null || t.tax === 0n)
  const own = splits && thread.agency !== null ? taxes.filter((t) => t.agency === thread.agency) : taxes
  return {
    ...base,
    lines: own.map((t) => {
      const detail = t.percent && Number(t.percent) !== 0 ? `at ${t.percent}\u00a0%` : ''
      return oneSided({ label: t.label, base: formatAmount(t.base, currency), detail }, t.tax, currency)
    }),
    units: splits ? sum(own.map((t) => t.tax)) : null,
    silence: splits ? null : 'not-stated',
  }
}

/** What was sold: lines, discount, and the tax that is inside of prices. */
function soldLines({ currency }: Parts, { decoded }: SourceUnit): ChainLine[] {
  const line = (label: string, detail: string, units: bigint): ChainLine =>
    oneSided({ label, base: null, detail }, units, currency)
  return [
    ...decoded.lines.map((l) => line(l.description, `× ${l.quantity}${overriddenText(l)}`, l.amount)),
    ...(decoded.discount === 0n ? [] : [line('Discount', 'on the whole document', -decoded.discount)]),
    ...(decoded.pricesIncludeTax ? [line('less the tax inside', '', decoded.net - decoded.total)] : []),
  ]
}

/** Who put another tax in the place of what the source would have charged, and why. */
function overriddenText({ overridden }: SourceUnit['decoded']['lines'][number]): string {
  if (overridden == null) return ''
  return `, its tax put in by ${overridden.by ?? 'somebody'}${overridden.why ? `: “${overridden.why}”` : ''}`
}

/** What was charged of tax, a line each rate. */
function chargedLines({ from, currency }: Parts, { decoded }: SourceUnit): ChainLine[] {
  return decoded.taxes.map(({ taxRateId, base, tax }) => {
    const name = from?.rates.find((r) => r.id === taxRateId)?.value.name ?? taxRateId
    return oneSided({ label: `Tax, ${name}`, base: formatAmount(base, currency), detail: '' }, tax, currency)
  })
}

interface StatedTax {
  /** Null where the source states no agency, or one that is not linked. */
  readonly agency: string | null
  readonly label: string
  readonly base: bigint
  readonly tax: bigint
  readonly percent: string | undefined
}

/** The tax of a document as its source states it, by component where it does. */
function statedTaxes({ from }: Parts, { decoded, stored }: SourceUnit): StatedTax[] {
  return decoded.taxes.flatMap((tax): StatedTax[] => {
    const { name, percent, components } = from?.rates.find((r) => r.id === tax.taxRateId)?.value ?? {}
    if (!tax.components)
      return [{ agency: null, label: name ?? tax.taxRateId, base: tax.base, tax: tax.tax, percent }]
    const stated = stored.value.taxes.find((t) => t.taxRateId === tax.taxRateId)?.components ?? []
    return tax.components.map((c, at) => ({
      agency: from?.agencyOf(c.agencyId) ?? null,
      label: components?.find((held) => held.agencyId === c.agencyId)?.name ?? name ?? '',
      base: tax.base,
      tax: c.tax,
      percent: stated[at]?.percent,
    }))
  })
}

/** The rules that decided a line of it, by name. */
function rulesOf({ document }: SourceUnit, { baseline }: BaselineIndex): string[] {
  const ids = new Set(document.lines.flatMap((line) => line.decision?.rules ?? []))
  const names = [...new Set(baseline.lineRules.filter((rule) => ids.has(rule.id)).map((rule) => rule.name))]
  return names.length === 0 ? [] : [`by the ${names.length === 1 ? 'rule' : 'rules'} ${names.join(', ')}`]
}

export function determinationLink(parts: Parts, thread: Thread): Open {
  const { source, index, currency, unit } = parts
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
  const net = sum(source.determination.lines.map((line) => line.net))
  const detail = unit.kind === 'credit-note' ? 'as its original, cumulatively' : ''
  const netLine = oneSided({ label: 'Net of all lines', base: null, detail }, net, currency)
  if (thread.kind === 'net') return { ...base, lines: [netLine], units: net }
  const agency = thread.kind === 'tax' ? thread.agency : null
  const own = source.determination.rows.filter((row) => agency === null || row.agencyId === agency)
  const lines = [...rowLines(parts, source, own), ...recoverableLines(parts, source, agency)]
  const tax = sum(own.map((r) => r.tax))
  return thread.kind === 'whole'
    ? { ...base, lines: [netLine, ...lines], units: net + tax }
    : { ...base, lines, units: tax }
}

/** Rows of a determination, those of one jurisdiction, rate and reason together. */
function rowLines(
  { index, currency }: Parts,
  { determination }: SourceUnit,
  own: readonly TaxRow[],
): ChainLine[] {
  const groups = groupBy(
    own,
    ({ jurisdictionId, percent, reason, perUnit }) =>
      `${jurisdictionId}|${percent}|${reason}|${perUnit ? `${perUnit.numerator}/${perUnit.denominator}` : ''}`,
  )
  return [...groups.values()].flatMap((group) => {
    const [row] = group
    if (!row) return []
    const label = index.jurisdiction(row.jurisdictionId)?.name ?? row.jurisdictionId
    const of = (amounts: bigint[]): string => formatAmount(sum(amounts), currency)
    if (!isTaxed(row)) {
      const detail = UNTAXED[row.reason] ?? row.reason
      return [oneSided({ label, base: of(group.map((r) => r.net)), detail }, 0n, currency)]
    }
    const detail = row.perUnit
      ? 'per unit'
      : `at ${formatPercent(row.percent)}\u00a0%${onTop(row, group, determination.rows, { currency, index })}`
    const tax = sum(group.map((r) => r.tax))
    return [
      {
        ...oneSided({ label, base: of(group.map((r) => r.base)), detail }, tax, currency),
        since: row.source.rateVersion?.split('@')[1] ?? null,
      },
    ]
  })
}

/** What of it may be had back, by agency. */
function recoverableLines(
  { index, currency }: Parts,
  { document, determination }: SourceUnit,
  agency: string | null,
): ChainLine[] {
  return recoverableTax(document, determination, index)
    .filter((one) => one.recoverable !== 0n && (agency === null || one.agencyId === agency))
    .map((one) => {
      const label = index.agency(one.agencyId)?.name ?? one.agencyId
      const base = formatAmount(one.tax, currency)
      return oneSided({ label, base, detail: 'of it recoverable' }, one.recoverable, currency)
    })
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
