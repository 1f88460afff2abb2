import type { GridCell, GridObject, GridRow, GridView, Remedy } from '@axion/contract'
import { compareNames, formatAmount, formatPercent, sum, type BaselineIndex } from '@axion/core'
import { loadBaseline } from '../baseline/load.ts'
import { loadHeld, type HeldSystem, type LinkKind } from '../connect/held.ts'
import { inOrder, type Transaction } from '../database/connection.ts'
import { lastDayOf } from '../tieout/periods.ts'
import { compareAgency, compareRate } from './compare.ts'
import { crosswalk, evidenceOf, isClear, standingsOf, standsFor, type Crosswalk, type Standing } from './crosswalk.ts'
import { findingKey } from './stake.ts'

interface Ground {
  readonly kind: LinkKind
  readonly index: BaselineIndex
  readonly date: string
  readonly stakes: ReadonlyMap<string, { readonly amount: bigint; readonly documents: number }>
  readonly currency: string
}

/** The agreement grid: one row a baseline object, one column a system, the cell saying what that system holds. */
export async function agreementGrid(trx: Transaction, entityId: string, month: string, currency: string, kind: LinkKind): Promise<GridView> {
  const index = await loadBaseline(trx, entityId)
  const systems = await loadHeld(trx, entityId)
  const ground: Ground = { kind, index, date: lastDayOf(month), stakes: await stakesOf(trx, entityId, month), currency }
  const walked = systems.map((held) => ({ held, walk: crosswalk(held, index, ground.date) }))
  const objects = kind === 'agency' ? agencyRows(index) : rateRows(index, ground.date)
  const all = await unionOf(trx, entityId, month, null, `%|${kind}|%`)
  const touched = await touchedBy(trx, entityId, month, kind)
  const rows = await inOrder(objects, async (object): Promise<GridRow> => {
    const cells = walked.map(({ held, walk }) => cellOf(ground, object.id, object.name, held, walk))
    const keys = cells.flatMap((cell) => cell.objects.filter((o) => !o.agrees).map((o) => o.finding))
    const stake = await unionOf(trx, entityId, month, keys)
    return { ...object, cells, findings: keys.join(','), documents: touched.get(object.id) ?? 0, stake: formatAmount(stake.amount, currency) }
  })
  const extras = walked.flatMap(({ held, walk }) =>
    standingsOf(walk, kind).filter((s) => standsFor(s) === null || isSecond(s, standingsOf(walk, kind))).map((standing) => ({
      ...objectOf(ground, held, walk, standing, standsFor(standing)), systemId: held.row.system_id, system: held.row.name,
      candidates: candidatesOf(standing, objects),
    })),
  )
  return {
    kind: kind === 'agency' ? 'agencies' : 'rates', currency, rows, extras, systems: await columnsOf(trx, entityId, systems),
    clearLinks: walked.reduce((n, { walk }) => n + standingsOf(walk, kind).filter((s) => isClear(s) && !isSecond(s, standingsOf(walk, kind))).length, 0),
    findings: rows.flatMap((row) => row.cells).filter((cell) => !['agrees', 'not-pulled', 'not-needed'].includes(cell.state)).length + extras.length,
    stake: formatAmount(all.amount, currency),
  }
}

/** A second object of one system that claims what another has: linked, or with stronger evidence. */
function isSecond(standing: Standing, all: readonly Standing[]): boolean {
  if (standing.linkedTo !== null) return false
  const claim = standsFor(standing)
  return claim !== null && all.some((other) => other !== standing && standsFor(other) === claim && (other.linkedTo !== null || strength(other) > strength(standing)))
}

function strength(standing: Standing): number {
  const order = ['near-name', 'same-jurisdictions', 'same-percent-and-components', 'same-name', 'same-code']
  return Math.max(-1, ...evidenceOf(standing).map((e) => order.indexOf(e)))
}

function cellOf(ground: Ground, baselineId: string, name: string, held: HeldSystem, walk: Crosswalk): GridCell {
  const standings = standingsOf(walk, ground.kind)
  const base = { systemId: held.row.system_id, objects: [] as GridObject[], remedies: [] as Remedy[] }
  if (standings.length === 0) return { ...base, state: 'not-pulled', words: 'not pulled yet' }
  const own = standings.filter((s) => standsFor(s) === baselineId && !isSecond(s, standings))
  const objects = own.map((standing) => ({ ...objectOf(ground, held, walk, standing, baselineId), names: namesOf(name, standing.name) }))
  const questions = standings.filter((s) => s.linkedTo === null && s.proposal.kind === 'question' && s.proposal.candidates.some((c) => c.id === baselineId))
  if (objects.length === 0 && questions.length === 0 && ground.kind === 'agency' && !isRegistered(ground.index, baselineId)) return { ...base, state: 'not-needed', words: 'not registered' }
  if (objects.length === 0) return questions.length > 0 ? { ...base, state: 'question', words: `${questions.length === 1 ? 'a candidate' : `${questions.length} candidates`}` } : { ...base, state: 'absent', words: 'absent' }
  const linked = objects.every((o) => o.linked)
  const differs = objects.find((o) => !o.agrees)
  const words = objects.length > 1 ? `${objects.length} linked: ${objects.map((o) => o.words).join('; ')}` : (objects[0]?.words ?? '')
  return { ...base, objects, words, state: differs ? 'differs' : linked ? 'agrees' : 'proposed', remedies: remediesOf(ground, held, walk, objects, baselineId) }
}

function objectOf(ground: Ground, held: HeldSystem, walk: Crosswalk, standing: Standing, baselineId: string | null): GridObject {
  const { objectId, name } = standing
  const key = findingKey(held.row.system_id, ground.kind, objectId)
  const stake = ground.stakes.get(key)
  const base = {
    id: objectId, name, linked: standing.linkedTo !== null, evidence: evidenceOf(standing), clear: isClear(standing), names: null, finding: key,
    stake: formatAmount(stake?.amount ?? 0n, ground.currency), documents: stake?.documents ?? 0,
  }
  if (ground.kind === 'agency') {
    const agency = held.agencies.find((a) => a.id === objectId)?.value
    const compared = agency && baselineId !== null ? compareAgency(baselineId, agency, held, ground.index, ground.date) : null
    const account = compared?.account
    const fields = account ? [{ field: 'Liability account', ours: account.ours ?? 'no rule', theirs: account.theirs, agrees: compared.agrees }] : []
    return { ...base, agrees: compared?.agrees ?? false, words: compared ? (compared.agrees ? name : compared.words) : name, fields }
  }
  const held_ = held.rates.find((r) => r.id === objectId)?.value
  const rate = ground.index.combinedRate(baselineId)
  if (!held_ || !rate) return { ...base, agrees: false, words: `${held_?.percent ?? ''} %`, fields: [] }
  const compared = compareRate(rate, held_, walk.agencyOf, ground.index, ground.date)
  const fields = compared.components.map((c) => ({
    field: `${ground.index.jurisdiction(c.jurisdictionId)?.name ?? c.jurisdictionId}, ${ground.index.agency(c.agencyId)?.name ?? ''}`,
    ours: c.percent === null ? 'no rate' : `${formatPercent(c.percent)} %`, theirs: c.theirs === null ? null : `${formatPercent(c.theirs)} %`, agrees: c.theirs === c.percent,
  }))
  return { ...base, agrees: compared.agrees, words: compared.agrees ? `${compared.words} %` : compared.words, fields }
}

function remediesOf({ kind, index, date }: Ground, held: HeldSystem, walk: Crosswalk, objects: readonly GridObject[], baselineId: string): Remedy[] {
  const systemId = held.row.system_id
  return objects.filter((o) => !o.agrees).flatMap((object): Remedy[] => {
    if (kind === 'agency') return held.row.about.takes.includes('agencies') ? [{ kind: 'liability-account', systemId, objectId: object.id }] : []
    const theirs = held.rates.find((r) => r.id === object.id)?.value
    const rate = index.combinedRate(baselineId)
    if (!theirs || !rate || !held.row.about.takes.includes('tax-rates')) return []
    return compareRate(rate, theirs, walk.agencyOf, index, date).components.filter((c) => c.at !== null && c.theirs !== c.percent)
      .map((c) => ({ kind: 'component-percent', systemId, objectId: object.id, jurisdictionId: c.jurisdictionId }))
  })
}

function candidatesOf({ proposal }: Standing, objects: readonly { readonly id: string; readonly name: string }[]): GridView['extras'][number]['candidates'] {
  const candidates = proposal.kind === 'proposal' ? [proposal.candidate] : proposal.kind === 'question' ? proposal.candidates : []
  return candidates.map((c) => ({ ...c, name: objects.find((o) => o.id === c.id)?.name ?? c.id }))
}

function namesOf(ours: string, theirs: string): GridObject['names'] {
  return ours === theirs ? null : compareNames(ours, theirs)
}

function agencyRows(index: BaselineIndex): Pick<GridRow, 'id' | 'name' | 'group' | 'detail' | 'total'>[] {
  return index.baseline.agencies.map((agency) => {
    const places = index.baseline.jurisdictions.filter((j) => j.agencyId === agency.id)
    return { id: agency.id, name: agency.name, group: isRegistered(index, agency.id) ? 'Registered' : 'Not registered', detail: places.map((p) => p.name).join(', '), total: index.baseline.postingRules.find((r) => r.agencyId === agency.id)?.account ?? '' }
  }).sort((a, b) => (a.group === b.group ? 0 : a.group === 'Registered' ? -1 : 1))
}

function isRegistered(index: BaselineIndex, agencyId: string): boolean {
  return index.baseline.registrations.some((r) => r.agencyId === agencyId)
}

function rateRows(index: BaselineIndex, date: string): Pick<GridRow, 'id' | 'name' | 'group' | 'detail' | 'total'>[] {
  return index.baseline.combinedRates.filter((rate) => rate.valid.from <= date && (rate.valid.to === null || date <= rate.valid.to)).map((rate) => {
    const components = index.componentsOn(rate, date)
    const region = rate.jurisdictionIds.map((id) => index.jurisdiction(id)).find((j) => j?.level === 'region')
    return {
      id: rate.id, name: rate.name, group: region?.name ?? 'No region', detail: components.map((c) => (c.percent === null ? '?' : formatPercent(c.percent))).join(' + '),
      total: `${formatPercent(sum(components.map((c) => c.percent ?? 0n)))} %`,
    }
  })
}

async function stakesOf(trx: Transaction, entityId: string, month: string): Promise<Ground['stakes']> {
  const rows = (await trx('stake_share').where({ entity_id: entityId, period: month }).groupBy('finding_key').select('finding_key', trx.raw('sum(amount) as amount, count(*) as documents'))) as { finding_key: string; amount: string; documents: string }[]
  return new Map(rows.map((r) => [r.finding_key, { amount: BigInt(r.amount), documents: Number(r.documents) }]))
}

/** Several findings together: a document counts once, at its largest. All of them where no keys are given. */
async function unionOf(trx: Transaction, entityId: string, month: string, keys: readonly string[] | null, like = '%'): Promise<{ amount: bigint; documents: number }> {
  const largest = trx('stake_share').where({ entity_id: entityId, period: month }).whereLike('finding_key', like).modify((q) => void (keys && q.whereIn('finding_key', [...keys]))).groupBy('unit_id').select(trx.raw('max(amount) as amount')).as('x')
  const row = (await trx.from(largest).first(trx.raw('coalesce(sum(amount), 0) as amount, count(*) as documents'))) as { amount: string; documents: string }
  return { amount: BigInt(row.amount), documents: Number(row.documents) }
}

/** How many of the month's documents carry each rate, or owe each agency. */
async function touchedBy(trx: Transaction, entityId: string, month: string, kind: LinkKind): Promise<ReadonlyMap<string, number>> {
  const rows = (kind === 'agency'
    ? await trx('tie_member').where({ entity_id: entityId, period: month }).whereNotNull('expected').groupBy('agency').select('agency as id', trx.raw('count(distinct unit_id) as n'))
    : await trx('tie_unit').where({ entity_id: entityId, period: month }).groupBy('combined_rate').select('combined_rate as id', trx.raw('count(*) as n'))) as { id: string; n: string }[]
  return new Map(rows.map((row) => [row.id, Number(row.n)]))
}

/** All that is at stake in a month, each document once at its largest. */
export async function stakeOfMonth(trx: Transaction, entityId: string, month: string): Promise<bigint> {
  return (await unionOf(trx, entityId, month, null)).amount
}

async function columnsOf(trx: Transaction, entityId: string, systems: readonly HeldSystem[]): Promise<GridView['systems']> {
  const pulls = (await trx('pull').where({ entity_id: entityId }).distinctOn('system_id').orderBy([{ column: 'system_id' }, { column: 'pull_id', order: 'desc' }])) as { system_id: string; finished_at: Date; pull_id: string }[]
  const changes = (await trx('held_change').where({ entity_id: entityId }).whereIn('pull_id', pulls.map((p) => p.pull_id)).whereIn('resource', ['agencies', 'tax-rates']).where({ kind: 'changed' })
    .groupBy('system_id').select('system_id', trx.raw('count(*) as n'))) as { system_id: string; n: string }[]
  return systems.map(({ row }) => ({
    id: row.system_id, name: row.name, role: row.role, pulledAt: pulls.find((p) => p.system_id === row.system_id)?.finished_at.toISOString() ?? null,
    changes: Number(changes.find((c) => c.system_id === row.system_id)?.n ?? 0),
  }))
}
