import { percentOf, type AlignKind, type SetUpRemedy, type SetUpTaken } from '@axion/contract'
import { formatPercent, type BaselineIndex, type CombinedRate } from '@axion/core'
import { Problem } from '../../faults/problem.ts'
import { perUnitText } from '../../setUp/compare.ts'
import { standsFor } from '../../setUp/crosswalk.ts'
import { accountFor } from '../kinds/accounts.ts'
import { KINDS, type GridBasis, type AlignedSystem } from '../kinds/index.ts'
import { inWords, planned, type Plan } from './plan.ts'

type Creation = Extract<SetUpRemedy, { readonly kind: 'create' }>

/** What the baseline has and a system lacks, as it would be made there. */
export function creationOf(
  basis: GridBasis,
  aligned: AlignedSystem,
  { align, systemId, baselineId, name }: Creation,
): Plan {
  const { row } = aligned.held
  const resource = KINDS[align].resource as SetUpTaken
  if (!row.about.creates.includes(resource))
    throw new Problem('AXION_NOTHING_TO_DO', { what: `create: ${row.name} lets nobody else make one` })
  const listed = KINDS[align].rows(basis).find((one) => one.id === baselineId)
  if (!listed) throw new Problem('AXION_NOT_FOUND', { what: 'such object in the baseline' })
  const { link } = KINDS[align]
  if (link !== null && aligned.crosswalk.of(link).some((match) => standsFor(match) === baselineId))
    throw new Problem('AXION_NOTHING_TO_DO', { what: `create: ${row.name} has it by now` })
  if (align === 'accounts' && aligned.held.accounts.some((a) => a.value.number === listed.total))
    throw new Problem('AXION_NOTHING_TO_DO', { what: `create: ${row.name} has it by now` })
  // An account is named as people like it; everything else by its name in the baseline.
  const value = {
    ...createdValue(basis, aligned, align, baselineId),
    ...(align === 'accounts' && name !== undefined ? { name } : {}),
  }
  return planned(aligned.held, String(listed.name), fieldsOf(value), {
    to: 'system',
    resource,
    value,
    key: `create/${systemId}/${resource}/${baselineId}`,
    link: link === null || align === 'dimensions' ? null : { systemId, kind: link, baselineId },
  })
}

/** A baseline object as it would be made in a system; null of a kind that is made nowhere. */
export function createdValue(
  basis: GridBasis,
  aligned: AlignedSystem,
  align: AlignKind,
  baselineId: string,
): object | null {
  switch (align) {
    case 'rates':
      return rateOf(basis, aligned, baselineId)
    case 'agencies':
      return agencyOf(basis, aligned, baselineId)
    case 'accounts':
      return accountFor(basis, baselineId)
    case 'dimensions':
      return dimensionOf(basis, baselineId)
    case 'codes':
    case 'items':
    case 'parties':
    case 'methods':
    case 'locations':
      return null
  }
}

const FIELD_NAMES: Readonly<Record<string, string>> = {
  code: 'Code',
  name: 'Name',
  number: 'Number',
  type: 'Type',
  percent: 'Total, %',
  dimension: 'Dimension',
  liabilityAccountId: 'Liability account',
}

function fieldsOf(value: object): { field: string; from: string; to: string }[] {
  return Object.entries(value).flatMap(([field, of]) => {
    if (field === 'components')
      return (of as { name: string; percent: string; from: string | null }[]).map((c) => ({
        field: `Component ${c.name}`,
        from: '',
        to: `${c.percent} %${c.from ? `, from ${c.from}` : ''}`,
      }))
    return FIELD_NAMES[field]
      ? [
          {
            field: FIELD_NAMES[field],
            from: '',
            to: inWords(of).replaceAll('-', field === 'type' ? ' ' : '-'),
          },
        ]
      : []
  })
}

function agencyOf({ index, date }: GridBasis, { held }: AlignedSystem, id: string): object {
  const agency = index.agency(id)
  const number = index.postingRuleOn('tax', id, date)?.account ?? null
  const account = number === null ? undefined : held.accounts.find((a) => a.value.number === number)
  if (held.row.role === 'ledger' && number !== null && !account)
    throw new Problem('AXION_ACCOUNT_NOT_IN_LEDGER', { account: number })
  return { code: agency?.code ?? null, name: agency?.name ?? '', liabilityAccountId: account?.id ?? null }
}

/** A combined rate with its components as they are on the day, and every version that is still to come. */
function rateOf(basis: GridBasis, aligned: AlignedSystem, id: string): object {
  const { index, date } = basis
  const rate = index.combinedRate(id)
  if (!rate) throw new Problem('AXION_NOT_FOUND', { what: 'such rate in the baseline' })
  const components = rate.jurisdictionIds.flatMap((jurisdictionId) =>
    versionsOf(index, rate, jurisdictionId, date).map((version) => ({ jurisdictionId, ...version })),
  )
  const made = components.map((c) => ({
    agencyId: linkedAgency(basis, aligned, c.jurisdictionId),
    name: index.jurisdiction(c.jurisdictionId)?.name ?? c.jurisdictionId,
    percent: c.percent,
    perUnit: c.perUnit,
    from: c.from,
    to: c.to,
    onTopOf: c.onTopOf
      .map((under) => components.findIndex((other) => other.jurisdictionId === under))
      .filter((at) => at >= 0),
  }))
  return {
    code: rate.code,
    name: rate.name,
    percent: formatPercent(percentOf(made, date)),
    active: true,
    components: made,
  }
}

function versionsOf(
  index: BaselineIndex,
  rate: CombinedRate,
  jurisdictionId: string,
  date: string,
): {
  percent: string
  perUnit: string | null
  onTopOf: readonly string[]
  from: string | null
  to: string | null
}[] {
  const [own] = index.componentsOn(rate, date).filter((c) => c.jurisdictionId === jurisdictionId)
  if (rate.itemTaxCode !== null && own)
    return [
      {
        percent: formatPercent(own.percent ?? 0n),
        perUnit: own.perUnit && perUnitText(own.perUnit, own.currency),
        onTopOf: own.onTopOf,
        from: null,
        to: null,
      },
    ]
  const first = `${date.slice(0, 8)}01`
  return index
    .ratesOf(jurisdictionId)
    .filter((v) => v.valid.to === null || v.valid.to >= first)
    .sort((a, b) => (a.valid.from < b.valid.from ? -1 : 1))
    .map((v) => ({
      percent: formatPercent(v.percent),
      perUnit: null,
      onTopOf: v.onTopOf,
      from: v.valid.from <= first ? null : v.valid.from,
      to: v.valid.to,
    }))
}

function linkedAgency(
  { index }: GridBasis,
  { held, crosswalk }: AlignedSystem,
  jurisdictionId: string,
): string {
  const agencyId = index.jurisdiction(jurisdictionId)?.agencyId ?? ''
  const theirs =
    held.agencies.find((a) => held.agencyOf(a.id) === agencyId) ??
    held.agencies.find((a) => crosswalk.agencyOf(a.id) === agencyId)
  if (!theirs)
    throw new Problem('AXION_LACKS_LINK', {
      system: held.row.name,
      what: index.agency(agencyId)?.name ?? agencyId,
    })
  return theirs.id
}

function dimensionOf({ index }: GridBasis, id: string): object {
  const value = index.baseline.dimensions.find((one) => one.id === id)
  return { dimension: value?.dimension ?? '', code: value?.code ?? '', name: value?.name ?? '', active: true }
}
