import { decodeDocument, RESOURCES, RESOURCES_OF, type Change, type JournalEntry, type Resource, type SourceDocument } from '@axion/contract'
import { Fault, parseAmount, periodOf } from '@axion/core'
import { inEntity, json, type Transaction } from '../database/connection.ts'
import { unseal } from '../bridges/secrets.ts'
import type { Bridge } from '../bridges/client.ts'
import type { Services } from '../services.ts'
import type { SystemRow } from './held.ts'

/** What came in one resource: how many objects, and what differs from the pull before. */
export interface PullCount {
  readonly resource: string
  added: number
  changed: number
  removed: number
  unreadable: number
}

interface Accepted {
  readonly change: Change
  readonly value: unknown
}

/**
 * Pulls one system: each resource from where the last pull ended, atomically.
 * An object in a bad shape becomes a finding that names it; the rest is taken. Nothing is sent.
 */
export async function pullSystem(services: Services, entityId: string, runId: string, system: SystemRow, period: string, step: (resource: string) => Promise<void>): Promise<PullCount[]> {
  const bridge = services.bridges.open(system.name, system.address, unseal(system.token_sealed, services.settings.AXION_SECRET_KEY))
  const about = await bridge.about()
  const settings = await bridge.settings()
  const pullId = await inEntity(services.database, entityId, async (trx) => {
    await trx('system').where({ entity_id: entityId, system_id: system.system_id }).update({ about: json(about), settings: json(settings) })
    const [row] = await trx('pull').insert({ entity_id: entityId, system_id: system.system_id, run_id: runId, counts: '[]' }).returning('pull_id')
    return (row as { pull_id: string }).pull_id
  })
  const counts: PullCount[] = []
  for (const resource of RESOURCES_OF[system.role]) {
    await step(resource)
    const changes = await changesOf(services, bridge, entityId, system.system_id, resource)
    counts.push(await inEntity(services.database, entityId, (trx) => takeResource(trx, entityId, pullId, system, resource, changes)))
  }
  if (system.role === 'ledger') await takeBalances(services, bridge, entityId, system.system_id, period)
  await inEntity(services.database, entityId, (trx) => trx('pull').where({ entity_id: entityId, pull_id: pullId }).update({ counts: json(counts), finished_at: trx.fn.now() }))
  return counts
}

async function changesOf(services: Services, bridge: Bridge, entityId: string, systemId: string, resource: Resource): Promise<{ items: Change[]; next: string }> {
  const cursor = await inEntity(services.database, entityId, (trx) => trx('pull_cursor').where({ entity_id: entityId, system_id: systemId, resource }).first('sequence'))
  const items: Change[] = []
  let next = (cursor as { sequence: string } | undefined)?.sequence ?? '0'
  for (let more = true; more; ) {
    const page = await bridge.page(resource, next)
    items.push(...page.items)
    ;({ next, more } = page)
  }
  return { items, next }
}

async function takeResource(trx: Transaction, entityId: string, pullId: string, system: SystemRow, resource: Resource, { items, next }: { items: Change[]; next: string }): Promise<PullCount> {
  const count: PullCount = { resource, added: 0, changed: 0, removed: 0, unreadable: 0 }
  const accepted: Accepted[] = []
  for (const change of items) {
    const at = { entity_id: entityId, system_id: system.system_id, resource, object_id: change.id }
    await trx('finding').where(at).delete()
    const read = change.removed ? { value: null } : readValue(resource, change.value)
    if ('problem' in read) {
      count.unreadable++
      await trx('finding').insert({ ...at, code: 'AXION_BAD_OBJECT', facts: json({ system: system.name, object: `${resource.replace('-', ' ')} ${labelOf(change.value) || change.id}`, problem: read.problem }) })
    } else accepted.push({ change, value: read.value })
  }
  const store = resource === 'documents' ? storeDocument : resource === 'journal-entries' ? storeEntry : storeHeld
  for (const { change, value } of accepted) {
    const before = await store(trx, entityId, system.system_id, resource, change, value)
    const kind = change.removed ? 'removed' : before === undefined ? 'added' : 'changed'
    if (change.removed && before === undefined) continue
    if (kind === 'changed' && json(before) === json(value)) continue
    count[kind]++
    await trx('held_change').insert({
      entity_id: entityId, pull_id: pullId, system_id: system.system_id, resource, object_id: change.id, kind, label: labelOf(value ?? before),
      before: before === undefined || kind === 'added' ? null : json(before), after: value === null ? null : json(value),
    })
  }
  await trx('pull_cursor').insert({ entity_id: entityId, system_id: system.system_id, resource, sequence: next }).onConflict(['entity_id', 'system_id', 'resource']).merge()
  return count
}

/** Reads a value as the contract shapes it, in exact amounts; a bad one is told with where it is wrong. */
function readValue(resource: Resource, value: unknown): { readonly value: unknown } | { readonly problem: string } {
  const read = RESOURCES[resource].safeParse(value)
  if (!read.success) {
    const [issue] = read.error.issues
    return { problem: `${issue?.path.join('.') || 'it'} ${issue?.message ?? ''}` }
  }
  try {
    if (resource === 'documents') decodeDocument(read.data as SourceDocument)
    if (resource === 'journal-entries') {
      const entry = read.data as JournalEntry
      for (const line of entry.lines) for (const text of [line.debit, line.credit, line.base ?? '0']) parseAmount(text, entry.currency)
    }
    return { value: read.data }
  } catch (error) {
    if (error instanceof Fault) return { problem: `${error.code} ${Object.values(error.facts).join(' ')}` }
    throw error
  }
}

async function storeHeld(trx: Transaction, entityId: string, systemId: string, resource: string, change: Change, value: unknown): Promise<unknown> {
  const at = { entity_id: entityId, system_id: systemId, resource, object_id: change.id }
  const before = (await trx('held_object').where({ ...at, removed: false }).first('value')) as { value: unknown } | undefined
  await trx('held_object').insert({ ...at, revision: change.revision, value: value === null ? null : json(value), removed: change.removed })
    .onConflict(['entity_id', 'system_id', 'resource', 'object_id']).merge()
  return before?.value
}

async function storeDocument(trx: Transaction, entityId: string, systemId: string, _resource: string, change: Change, value: unknown): Promise<unknown> {
  const at = { entity_id: entityId, system_id: systemId, document_id: change.id }
  const before = (await trx('source_document').where(at).first('value')) as { value: SourceDocument } | undefined
  if (value === null) {
    // A document that vanished from its source stays here, void, so that what was booked of it is not forgotten.
    if (before) await trx('source_document').where(at).update({ status: 'void', revision: change.revision })
    return before?.value
  }
  const { number, status, documentDate, currency, party } = value as SourceDocument
  await trx('source_document').insert({ ...at, revision: change.revision, number, status, document_date: documentDate, period: periodOf(documentDate), currency, party: party.name, value: json(value) })
    .onConflict(['entity_id', 'system_id', 'document_id']).merge()
  return before?.value
}

async function storeEntry(trx: Transaction, entityId: string, systemId: string, _resource: string, change: Change, value: unknown): Promise<unknown> {
  const at = { entity_id: entityId, system_id: systemId, entry_id: change.id }
  const before = (await trx('ledger_entry').where(at).first('value')) as { value: JournalEntry } | undefined
  if (value === null) {
    await trx('ledger_entry').where(at).delete()
    return before?.value
  }
  const e = value as JournalEntry
  await trx('ledger_entry').insert({
    ...at, revision: change.revision, external_id: e.externalId, booking_id: e.bookingId, booking_revision: e.bookingRevision, posting_date: e.postingDate,
    period: periodOf(e.postingDate), currency: e.currency, voided: e.voided, changed_by: e.changedBy, changed_at: e.changedAt, value: json(e),
  }).onConflict(['entity_id', 'system_id', 'entry_id']).merge()
  return before?.value
}

async function takeBalances(services: Services, bridge: Bridge, entityId: string, systemId: string, period: string): Promise<void> {
  const [year = 0, month = 0] = period.split('-').map(Number)
  const lastDay = new Date(Date.UTC(year, month, 0)).toISOString().slice(0, 10)
  const { items } = await bridge.balances(`${period}-01`, lastDay)
  await inEntity(services.database, entityId, async (trx) => {
    const accounts = (await trx('held_object').where({ entity_id: entityId, system_id: systemId, resource: 'accounts', removed: false }).select('object_id', trx.raw(`value->>'number' as number`))) as { object_id: string; number: string }[]
    await trx('ledger_balance').where({ entity_id: entityId, system_id: systemId, period }).delete()
    for (const item of items) {
      const account = accounts.find((a) => a.object_id === item.accountId)?.number
      if (account === undefined) continue
      await trx('ledger_balance').insert({
        entity_id: entityId, system_id: systemId, period, account, currency: item.currency,
        opening: parseAmount(item.opening, item.currency).toString(), closing: parseAmount(item.closing, item.currency).toString(),
      })
    }
  })
}

function labelOf(value: unknown): string {
  const named = (value ?? {}) as { name?: unknown; number?: unknown }
  return String(named.number ?? named.name ?? '')
}
