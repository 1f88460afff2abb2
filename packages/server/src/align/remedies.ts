import type { RemedyPreview, SetUpRemedy, SetUpTaken } from '@axion/contract'
import { covers, formatAmount, formatPercent, parsePercent, sum, type BaselineIndex, type Explanation } from '@axion/core'
import { audit } from '../audit/audit.ts'
import { loadBaseline } from '../baseline/load.ts'
import { unseal } from '../bridges/secrets.ts'
import { ALL_SET_UP, loadHeld, type HeldSystem } from '../connect/held.ts'
import { canonical, inEntity, type Transaction } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'
import type { Services } from '../services.ts'
import { lastDayOf } from '../tieout/periods.ts'
import type { Reproduced } from '../tieout/weigh.ts'
import { compareAgency, compareRate } from './compare.ts'
import { crosswalk, standsFor } from './crosswalk.ts'
import { taxedAnywhere } from './kinds/items.ts'

/** What a remedy sends: fields of one object, based on its revision. */
interface Change {
  readonly system: HeldSystem
  readonly resource: SetUpTaken
  readonly object: string
  readonly revision: string
  readonly fields: object
  readonly changes: RemedyPreview['changes']
}

/** The change of a set-up that undoes an explanation, where it is one that a system's snapshot gave rise to. */
export function setUpRemedyOf(explanation: Explanation): SetUpRemedy | null {
  const [assumption] = explanation
  if (explanation.length !== 1 || !assumption) return null
  if (assumption.kind === 'component-percent') return { kind: 'component-percent', systemId: assumption.systemId, objectId: assumption.systemRateId, jurisdictionId: assumption.jurisdictionId }
  return assumption.kind === 'liability-account' ? { kind: 'liability-account', systemId: assumption.systemId, objectId: assumption.systemAgencyId } : null
}

export function sameRemedy(a: SetUpRemedy, b: SetUpRemedy): boolean {
  return a.kind === b.kind && a.systemId === b.systemId && a.objectId === b.objectId && (a.kind !== 'component-percent' || b.kind !== 'component-percent' || a.jurisdictionId === b.jurisdictionId)
}

/** What would be sent, and which bookings would be made again for it. Nothing leaves. */
export async function previewSetUp(trx: Transaction, entityId: string, month: string, currency: string, remedy: SetUpRemedy): Promise<RemedyPreview> {
  const change = await changeOf(trx, entityId, month, remedy)
  const units = await unitsOf(trx, entityId, month, remedy)
  return {
    remedy, system: change.system.row.name, object: change.object, revision: change.revision, changes: change.changes, journal: [], currency,
    documents: units.length, unproved: formatAmount(sum(units.map((u) => BigInt(u.unproved))), currency),
  }
}

/** Sends the change under the revision that was previewed, and records before and after. */
export async function sendSetUp(services: Services, entityId: string, month: string, remedy: SetUpRemedy, revision: string, person: string): Promise<void> {
  const change = await inEntity(services.database, entityId, (trx) => changeOf(trx, entityId, month, remedy))
  const { row } = change.system
  if (change.revision !== revision) throw new Problem('AXION_STALE', { what: `${change.object} in ${row.name}` })
  const bridge = services.bridges.open(row.name, row.address, unseal(row.token_sealed, services.settings.AXION_SECRET_KEY))
  await bridge.change(change.resource, remedy.objectId, change.fields, revision)
  await inEntity(services.database, entityId, (trx) =>
    audit(trx, entityId, person, 'sent-to-system', `${row.name}: ${change.object}`, Object.fromEntries(change.changes.map((c) => [c.field, c.from])), Object.fromEntries(change.changes.map((c) => [c.field, c.to]))),
  )
}

interface RemediedUnit {
  readonly document_id: string
  readonly system_id: string
  readonly unproved: string
  readonly assumptions: readonly Reproduced[]
}

/** The booked documents of the month that a remedy's cause explains. */
export async function unitsOf(trx: Transaction, entityId: string, month: string, remedy: SetUpRemedy): Promise<RemediedUnit[]> {
  const rows = (await trx('tie_unit').where({ entity_id: entityId, period: month, proved: false }).whereNot('bookings', 0).whereNotNull('document_id')
    .select('document_id', 'system_id', 'unproved', 'assumptions')) as RemediedUnit[]
  return rows.filter((row) => row.assumptions.some(({ assumptions }) => assumptions.some((one) => {
    const own = setUpRemedyOf([one])
    return own !== null && sameRemedy(own, remedy)
  })))
}

async function changeOf(trx: Transaction, entityId: string, month: string, remedy: SetUpRemedy): Promise<Change> {
  const index = await loadBaseline(trx, entityId)
  const system = (await loadHeld(trx, entityId, ALL_SET_UP)).find((s) => s.row.system_id === remedy.systemId)
  const date = lastDayOf(month)
  if (!system) throw new Problem('AXION_NOT_FOUND', { what: 'such system' })
  if (!system.row.about.takes.includes(resourceOf(remedy))) throw new Problem('AXION_NOTHING_TO_DO', { what: `send: ${system.row.name} takes no such change` })

  if (remedy.kind === 'item' || remedy.kind === 'party' || remedy.kind === 'name') return plainChange(system, index, date, remedy)
  if (remedy.kind === 'liability-account') {
    const agency = system.agencies.find((a) => a.id === remedy.objectId)
    const agencyId = agency && crosswalk(system, index, date).agencyOf(agency.id)
    if (!agency || !agencyId) throw new Problem('AXION_NOT_FOUND', { what: 'such agency, linked to the baseline' })
    const compared = compareAgency(agencyId, agency.value, system, index, date)
    const account = system.accounts.find((a) => a.value.number === compared.account?.ours)
    if (compared.agrees) throw new Problem('AXION_NOTHING_TO_DO', { what: 'mend: it agrees by now' })
    if (!account) throw new Problem('AXION_ACCOUNT_NOT_IN_LEDGER', { account: compared.account?.ours ?? '' })
    const named = (number: string | null): string => `${number ?? 'none'} ${system.accounts.find((a) => a.value.number === number)?.value.name ?? ''}`.trim()
    return {
      system, resource: 'agencies', object: agency.value.name, revision: agency.revision, fields: { liabilityAccountId: account.id },
      changes: [{ field: 'Liability account', from: named(compared.account?.theirs ?? null), to: named(account.value.number) }],
    }
  }
  const held = system.rates.find((r) => r.id === remedy.objectId)
  const walk = crosswalk(system, index, date)
  const rate = index.combinedRate(walk.rateOf(remedy.objectId))
  const compared = held && rate && compareRate(rate, held.value, walk.agencyOf, index, date)
  const component = compared?.components.find((c) => c.jurisdictionId === remedy.jurisdictionId)
  if (!held?.value.components || component?.at == null || component.percent === null) throw new Problem('AXION_NOT_FOUND', { what: 'such component, linked to the baseline' })
  if (component.theirs === component.percent) throw new Problem('AXION_NOTHING_TO_DO', { what: 'mend: it agrees by now' })
  const to = formatPercent(component.percent)
  const components = held.value.components.map((c, at) => (at === component.at ? { ...c, percent: to } : c))
  const total = formatPercent(sum(components.map((c) => parsePercent(c.percent))))
  return {
    system, resource: 'tax-rates', object: held.value.name, revision: held.revision, fields: { components, percent: total },
    changes: [
      { field: held.value.components[component.at]?.name ?? 'Component', from: `${formatPercent(component.theirs ?? 0n)} %`, to: `${to} %` },
      { field: 'Total', from: `${formatPercent(parsePercent(held.value.percent))} %`, to: `${total} %` },
    ],
  }
}

function resourceOf(remedy: SetUpRemedy): SetUpTaken {
  switch (remedy.kind) {
    case 'component-percent': return 'tax-rates'
    case 'liability-account': return 'agencies'
    case 'item': return 'items'
    case 'party': return 'parties'
    case 'name': return remedy.align === 'rates' ? 'tax-rates' : remedy.align
  }
}

/** An item's code, flag and name, a party's exemption, or a name, as the baseline has them. */
function plainChange(system: HeldSystem, index: BaselineIndex, date: string, remedy: Extract<SetUpRemedy, { readonly kind: 'item' | 'party' | 'name' }>): Change {
  const resource = resourceOf(remedy)
  const walk = crosswalk(system, index, date)
  const object = (resource === 'tax-rates' ? system.rates : system[resource]).find((o) => o.id === remedy.objectId)
  const id = object && standsFor(walk.find(LINK_OF[resource], object.id))
  const wanted = id == null ? null : wantedOf(index, date, resource, id, remedy.kind)
  if (!object || !wanted) throw new Problem('AXION_NOT_FOUND', { what: 'such object, linked to the baseline' })
  const held = object.value as Readonly<Record<string, unknown>>
  const moved = Object.entries(wanted.fields).filter(([field, value]) => canonical(held[field] ?? null) !== canonical(value))
  if (moved.length === 0) throw new Problem('AXION_NOTHING_TO_DO', { what: 'mend: it agrees by now' })
  return {
    system, resource, object: object.value.name, revision: object.revision, fields: Object.fromEntries(moved),
    changes: moved.map(([field, value]) => ({ field: FIELD_NAMES[field] ?? field, from: inWords(held[field]), to: inWords(value) })),
  }
}

const LINK_OF = { 'tax-rates': 'combined-rate', agencies: 'agency', items: 'item', parties: 'party' } as const
const FIELD_NAMES: Readonly<Record<string, string>> = { name: 'Name', itemTaxCode: 'Item tax code', taxable: 'Taxable', exemption: 'Exemption' }

function wantedOf(index: BaselineIndex, date: string, resource: SetUpTaken, id: string, kind: 'item' | 'party' | 'name'): { readonly fields: object } | null {
  if (resource === 'parties') {
    const party = index.party(id)
    if (!party) return null
    const certificate = index.certificatesOf(id).find((c) => covers(c.valid, date)) ?? null
    const claims = party.catchAll ? null : party.claims
    return { fields: { exemption: claims === null ? null : { reason: claims, certificate: certificate?.number ?? null, from: certificate?.valid.from ?? null, to: certificate?.valid.to ?? null } } }
  }
  const named = resource === 'agencies' ? index.agency(id) : resource === 'tax-rates' ? index.combinedRate(id) : index.baseline.items.find((item) => item.id === id)
  if (!named) return null
  return { fields: kind === 'item' && 'itemTaxCode' in named ? { name: named.name, itemTaxCode: named.itemTaxCode, taxable: taxedAnywhere(index, named.itemTaxCode ?? '') } : { name: named.name } }
}

function inWords(value: unknown): string {
  if (value === null || value === undefined) return 'none'
  if (typeof value === 'boolean') return value ? 'yes' : 'no'
  if (typeof value === 'object') return Object.values(value).filter((part) => part !== null).join(', ')
  return String(value as string | number)
}
