import { SENT_KINDS, type AlignKind, type SetUpRemedy, type SetUpTaken } from '@axion/contract'
import { covers, formatPercent, parsePercent, type BaselineIndex } from '@axion/core'
import { postingRuleId } from '../../baseline/tables/postings.ts'
import { canonical } from '../../database/json.ts'
import { Problem } from '../../faults/problem.ts'
import { compareAgency, compareRate } from '../../setUp/compare.ts'
import { standsFor } from '../../setUp/crosswalk.ts'
import type { Held } from '../../setUp/held.ts'
import { accountFor } from '../kinds/accounts.ts'
import { KINDS, type GridBasis, type AlignedSystem } from '../kinds/index.ts'
import { taxedAnywhere } from '../kinds/items.ts'
import { corrected, totalOn, withComing } from './coming.ts'
import { creationOf } from './create.ts'
import { inWords, planned, type Plan } from './plan.ts'

/** What a remedy sends to a system: fields of one object, based on its revision, or a new object. */
export function sendingOf(basis: GridBasis, remedy: SetUpRemedy): Plan {
  const aligned = basis.systems.find(({ held }) => held.row.system_id === remedy.systemId)
  if (!aligned) throw new Problem('AXION_NOT_FOUND', { what: 'such system' })
  if (remedy.kind === 'create') return creationOf(basis, aligned, remedy)
  const resource = resourceOf(remedy)
  const { row } = aligned.held
  if (!row.about.takes.includes(resource))
    throw new Problem('AXION_NOTHING_TO_DO', { what: `send: ${row.name} takes no such change` })
  if (remedy.kind === 'liability-account') return accountPlan(basis, aligned, remedy.objectId)
  return remedy.kind === 'component-percent'
    ? percentPlan(basis, aligned, remedy)
    : fieldsPlan(basis, aligned, remedy, resource)
}

function resourceOf(remedy: Exclude<SetUpRemedy, { readonly kind: 'create' }>): SetUpTaken {
  if (remedy.kind === 'component-percent') return 'tax-rates'
  return remedy.kind === 'liability-account' ? 'agencies' : (KINDS[remedy.align].resource as SetUpTaken)
}

function accountPlan(
  { index, date }: GridBasis,
  { held: system, crosswalk }: AlignedSystem,
  objectId: string,
): Plan {
  const agency = system.agencies.find((a) => a.id === objectId)
  const agencyId = agency && crosswalk.agencyOf(agency.id)
  if (!agency || !agencyId)
    throw new Problem('AXION_NOT_FOUND', { what: 'such agency, linked to the baseline' })
  const compared = compareAgency(agencyId, agency.value, { system, index, date })
  const account = system.accounts.find((a) => a.value.number === compared.account?.ours)
  if (compared.agrees) throw new Problem('AXION_NOTHING_TO_DO', { what: 'mend: it agrees by now' })
  if (!account) throw new Problem('AXION_ACCOUNT_NOT_IN_LEDGER', { account: compared.account?.ours ?? '' })
  const named = (number: string | null): string =>
    `${number ?? 'none'} ${system.accounts.find((a) => a.value.number === number)?.value.name ?? ''}`.trim()
  return planned(
    system,
    agency.value.name,
    [
      {
        field: 'Liability account',
        from: named(compared.account?.theirs ?? null),
        to: named(account.value.number),
      },
    ],
    {
      to: 'object',
      resource: 'agencies',
      objectId,
      revision: agency.revision,
      fields: { liabilityAccountId: account.id },
      before: { liabilityAccountId: agency.value.liabilityAccountId },
    },
  )
}

function percentPlan(
  { index, date }: GridBasis,
  { held: system, crosswalk }: AlignedSystem,
  { objectId, jurisdictionId }: { readonly objectId: string; readonly jurisdictionId: string },
): Plan {
  const held = system.rates.find((r) => r.id === objectId)
  const rate = index.combinedRate(crosswalk.rateOf(objectId))
  const component =
    held &&
    rate &&
    compareRate(rate, held.value, { agencyOf: crosswalk.agencyOf, index, date }).components.find(
      (c) => c.jurisdictionId === jurisdictionId,
    )
  if (!held?.value.components || component?.at == null || component.percent === null)
    throw new Problem('AXION_NOT_FOUND', { what: 'such component, linked to the baseline' })
  if (component.theirs === component.percent)
    throw new Problem('AXION_NOTHING_TO_DO', { what: 'mend: it agrees by now' })
  const to = formatPercent(component.percent)
  const components = held.value.components.map((c, at) => (at === component.at ? { ...c, percent: to } : c))
  const total = totalOn(components, date)
  return planned(
    system,
    held.value.name,
    [
      {
        field: held.value.components[component.at]?.name ?? 'Component',
        from: `${formatPercent(component.theirs ?? 0n)} %`,
        to: `${to} %`,
      },
      { field: 'Total', from: `${formatPercent(parsePercent(held.value.percent))} %`, to: `${total} %` },
    ],
    {
      to: 'object',
      resource: 'tax-rates',
      objectId,
      revision: held.revision,
      fields: { components, percent: total },
      before: { components: held.value.components, percent: held.value.percent },
    },
  )
}

/** Every plain field that the baseline has otherwise: an item's code, flag and name, a party's exemption, a place's address and hour. */
function fieldsPlan(
  basis: GridBasis,
  aligned: AlignedSystem,
  remedy: Extract<SetUpRemedy, { readonly kind: 'send' }>,
  resource: SetUpTaken,
): Plan {
  const { held: system, crosswalk } = aligned
  const { align, objectId } = remedy
  const kind = KINDS[align]
  const object = objectsOf(aligned, align).find((o) => o.id === objectId)
  // Accounts meet by their numbers; everything else by what it is linked to.
  const id = !object
    ? null
    : kind.link
      ? standsFor(crosswalk.find(kind.link, object.id))
      : inWords(object.value['number'])
  const wanted = id == null ? null : wantedOf(basis, aligned, remedy, id)
  if (!object || !wanted)
    throw new Problem('AXION_NOT_FOUND', { what: 'such object, linked to the baseline' })
  const moved = Object.entries(wanted).filter(
    ([field, value]) => canonical(object.value[field] ?? null) !== canonical(value),
  )
  if (moved.length === 0) throw new Problem('AXION_NOTHING_TO_DO', { what: 'mend: it agrees by now' })
  return planned(
    system,
    inWords(object.value['name']),
    moved.map(([field, value]) => ({
      field: FIELD_NAMES[field] ?? field,
      from: shown(field, object.value[field]),
      to: shown(field, value),
    })),
    {
      to: 'object',
      resource,
      objectId,
      revision: object.revision,
      fields: Object.fromEntries(moved),
      before: Object.fromEntries(moved.map(([field]) => [field, object.value[field] ?? null])),
    },
  )
}

/** A system's object with everything that the baseline has otherwise; null where nothing is. */
export function correctedObject(
  basis: GridBasis,
  aligned: AlignedSystem,
  kind: AlignKind,
  objectId: string,
): object | null {
  const align = SENT_KINDS.find((one) => one === kind)
  const object = align && objectsOf(aligned, align).find((o) => o.id === objectId)
  const { link } = KINDS[kind]
  const id = !object
    ? null
    : link
      ? standsFor(aligned.crosswalk.find(link, object.id))
      : inWords(object.value['number'])
  const wanted =
    !align || id == null
      ? null
      : wantedOf(basis, aligned, { kind: 'send', align, systemId: aligned.held.row.system_id, objectId }, id)
  if (!object || !wanted) return null
  const account =
    align === 'agencies'
      ? aligned.held.accounts.find(
          (a) => a.value.number === basis.index.postingRuleOn('tax', id ?? '', basis.date)?.account,
        )
      : undefined
  const whole = { ...object.value, ...wanted, ...(account ? { liabilityAccountId: account.id } : {}) }
  return canonical(whole) === canonical(object.value) ? null : whole
}

/** A value as people read it; of components, each with its dates. */
function shown(field: string, value: unknown): string {
  if (field !== 'components') return inWords(value)
  return (value as { name: string; percent: string; from: string | null; to: string | null }[])
    .map((c) => `${c.name} ${c.percent} %${c.from ? ` from ${c.from}` : ''}${c.to ? ` to ${c.to}` : ''}`)
    .join('; ')
}

const FIELD_NAMES: Readonly<Record<string, string>> = {
  name: 'Name',
  itemTaxCode: 'Item tax code',
  taxable: 'Taxable',
  exemption: 'Exemption',
  kind: 'Kind',
  active: 'In use',
  address: 'Address',
  cutOff: 'Its day ends',
  timeZone: 'Time zone',
  components: 'Components',
  percent: 'Total, %',
  type: 'Type',
}

/** A system's objects of a kind that fields are sent to. */
export function objectsOf(
  { held }: AlignedSystem,
  align: Extract<SetUpRemedy, { readonly kind: 'send' }>['align'],
): readonly Held<Readonly<Record<string, unknown>>>[] {
  return held[align]
}

/** The fields of an object as the baseline has them; null where it has no such object. */
function wantedOf(
  basis: GridBasis,
  aligned: AlignedSystem,
  { align, objectId }: Extract<SetUpRemedy, { readonly kind: 'send' }>,
  id: string,
): Readonly<Record<string, unknown>> | null {
  const { index, date } = basis
  const { baseline } = index
  switch (align) {
    case 'agencies':
      return named(index.agency(id))
    case 'rates': {
      const rate = index.combinedRate(id)
      const theirs = aligned.held.rates.find((one) => one.id === objectId)?.value
      if (!rate || !theirs) return null
      const components = withComing(basis, aligned, rate, corrected(basis, aligned, rate, theirs))
      return {
        name: rate.name,
        active: true,
        ...(components ? { components, percent: totalOn(components, date) } : {}),
      }
    }
    case 'parties':
      return exemptionOf(index, id, date)
    case 'items': {
      const item = baseline.items.find((one) => one.id === id)
      return item
        ? { name: item.name, itemTaxCode: item.itemTaxCode, taxable: taxedAnywhere(index, item.itemTaxCode) }
        : null
    }
    case 'accounts': {
      const rule = baseline.postingRules.find((one) => one.account === id && covers(one.valid, date))
      return rule
        ? { type: accountFor(basis, postingRuleId(rule.kind, rule.agencyId, rule.only)).type }
        : null
    }
    case 'methods': {
      const method = baseline.paymentMethods.find((one) => one.id === id)
      return method ? { name: method.name, kind: method.kind, active: true } : null
    }
    case 'locations': {
      const place = baseline.locations.find((one) => one.id === id)
      return place
        ? { name: place.name, address: place.address, cutOff: place.cutOff, timeZone: place.timeZone }
        : null
    }
    case 'dimensions': {
      const value = baseline.dimensions.find((one) => one.id === id)
      return value ? { name: value.name, active: true } : null
    }
  }
}

function named(object: { readonly name: string } | undefined): { readonly name: string } | null {
  return object ? { name: object.name } : null
}

function exemptionOf(
  index: BaselineIndex,
  id: string,
  date: string,
): { readonly exemption: object | null } | null {
  const party = index.party(id)
  if (!party) return null
  const certificate = index.certificatesOf(id).find((c) => covers(c.valid, date)) ?? null
  const claims = party.catchAll ? null : party.claims
  return {
    exemption:
      claims === null
        ? null
        : {
            reason: claims,
            certificate: certificate?.number ?? null,
            from: certificate?.valid.from ?? null,
            to: certificate?.valid.to ?? null,
          },
  }
}
