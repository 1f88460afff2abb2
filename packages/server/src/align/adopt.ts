import type { AdoptRemedy, RemedyPreview } from '@axion/contract'
import { formatPercent } from '@axion/core'
import { audit } from '../audit/audit.ts'
import { loadBaseline } from '../baseline/load.ts'
import { revise, type Revision } from '../baseline/revise.ts'
import { ALL_SET_UP, loadHeld, type HeldSystem } from '../connect/held.ts'
import { json, type Transaction } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'
import { lastDayOf } from '../tieout/periods.ts'
import { noteSetUp } from './build.ts'
import { compareAgency, compareRate } from './compare.ts'
import { crosswalk, standsFor } from './crosswalk.ts'
import { codeOf } from './kinds/items.ts'

interface Adoption {
  readonly system: HeldSystem
  readonly object: string
  readonly revision: string
  readonly changes: RemedyPreview['changes']
  readonly steps: readonly Revision[]
}

/** What taking a system's values into the baseline would change in it. Nothing is changed. */
export async function previewAdoption(trx: Transaction, entityId: string, month: string, currency: string, remedy: AdoptRemedy): Promise<RemedyPreview> {
  const { system, object, revision, changes } = await adoptionOf(trx, entityId, month, remedy)
  return { remedy, system: system.row.name, object, revision, changes, journal: [], currency, documents: 0, unproved: '0' }
}

/** Takes a system's values into the baseline, as they were previewed. */
export async function adopt(trx: Transaction, entityId: string, month: string, remedy: AdoptRemedy, revision: string, person: string): Promise<void> {
  const adoption = await adoptionOf(trx, entityId, month, remedy)
  if (adoption.revision !== revision) throw new Problem('AXION_STALE', { what: adoption.object })
  for (const step of adoption.steps) await revise(trx, entityId, step)
  const side = (of: 'from' | 'to'): object => Object.fromEntries(adoption.changes.map((change) => [change.field, change[of]]))
  await audit(trx, entityId, person, 'adopted', `${adoption.system.row.name}: ${adoption.object}`, side('from'), side('to'))
  await noteSetUp(trx, entityId)
}

async function adoptionOf(trx: Transaction, entityId: string, month: string, { align, systemId, objectId }: AdoptRemedy): Promise<Adoption> {
  const index = await loadBaseline(trx, entityId)
  const system = (await loadHeld(trx, entityId, ALL_SET_UP)).find((s) => s.row.system_id === systemId)
  if (!system) throw new Problem('AXION_NOT_FOUND', { what: 'such system' })
  const date = lastDayOf(month)
  const walk = crosswalk(system, index, date)
  const steps: Revision[] = []
  const changes: { field: string; from: string; to: string }[] = []
  const put = (field: string, from: string, to: string, step: Revision): void => {
    changes.push({ field, from, to })
    steps.push(step)
  }
  const done = (object: string, revision: string): Adoption => {
    if (steps.length === 0) throw new Problem('AXION_NOTHING_TO_DO', { what: 'take over: it agrees by now' })
    return { system, object, changes, steps, revision: `${revision} ${json(changes)}`.slice(0, 200) }
  }

  if (align === 'items') {
    const item = system.items.find((i) => i.id === objectId)
    const id = standsFor(walk.find('item', objectId))
    const ours = index.baseline.items.find((i) => i.id === id)
    if (!item || !ours) throw new Problem('AXION_NOT_FOUND', { what: 'such item, linked to the baseline' })
    const code = codeOf(item.value, { held: system, walk })
    if (code !== null && code !== ours.itemTaxCode) {
      if (!index.baseline.itemTaxCodes.some((known) => known.id === code)) throw new Problem('AXION_BASELINE_INCONSISTENT', { where: `The item ${ours.name}`, what: code })
      put('Item tax code', ours.itemTaxCode, code, { table: 'item', objectId: ours.id, values: { item_tax_code: code, ...(item.value.name === ours.name ? {} : { name: item.value.name }) }, from: null })
    } else if (item.value.name !== ours.name) put('Name', ours.name, item.value.name, { table: 'item', objectId: ours.id, values: { name: item.value.name }, from: null })
    return done(ours.name, item.revision)
  }
  if (align === 'parties') {
    const party = system.parties.find((p) => p.id === objectId)
    const ours = index.party(standsFor(walk.find('party', objectId)) ?? '')
    if (!party || !ours) throw new Problem('AXION_NOT_FOUND', { what: 'such party, linked to the baseline' })
    const claims = party.value.exemption?.reason ?? null
    if (ours.catchAll && claims !== null) throw new Problem('AXION_NOTHING_TO_DO', { what: 'take over: whoever stands for many buyers is never exempt' })
    if (claims !== ours.claims) put('Exempt for', ours.claims ?? 'nothing', claims ?? 'nothing', { table: 'party', objectId: ours.id, values: { claims }, from: null })
    return done(ours.name, party.revision)
  }
  if (align === 'agencies') {
    const agency = system.agencies.find((a) => a.id === objectId)
    const ours = index.agency(walk.agencyOf(objectId) ?? '')
    if (!agency || !ours) throw new Problem('AXION_NOT_FOUND', { what: 'such agency, linked to the baseline' })
    const { account } = compareAgency(ours.id, agency.value, system, index, date)
    if (account?.theirs != null && account.ours !== null && account.theirs !== account.ours) put('Liability account', account.ours, account.theirs, { table: 'posting_rule', objectId: `tax ${ours.id}`, values: { account: account.theirs }, from: `${month}-01` })
    if (agency.value.name !== ours.name) put('Name', ours.name, agency.value.name, { table: 'agency', objectId: ours.id, values: { name: agency.value.name }, from: null })
    return done(ours.name, agency.revision)
  }
  const rate = system.rates.find((r) => r.id === objectId)
  const ours = index.combinedRate(walk.rateOf(objectId))
  if (!rate || !ours) throw new Problem('AXION_NOT_FOUND', { what: 'such rate, linked to the baseline' })
  for (const { jurisdictionId, percent, theirs } of compareRate(ours, rate.value, walk.agencyOf, index, date).components) {
    if (theirs === null || percent === null || theirs === percent) continue
    put(`${index.jurisdiction(jurisdictionId)?.name ?? jurisdictionId}, from ${month}-01`, `${formatPercent(percent)} %`, `${formatPercent(theirs)} %`, { table: 'rate_version', objectId: jurisdictionId, values: { percent: formatPercent(theirs) }, from: `${month}-01` })
  }
  if (rate.value.name !== ours.name) put('Name', ours.name, rate.value.name, { table: 'combined_rate', objectId: ours.id, values: { name: rate.value.name }, from: null })
  return done(ours.name, rate.revision)
}
