import {
  ALSO_OF,
  decodeDocument,
  problemOfEntry,
  KINDS_OF,
  RESOURCES,
  RESOURCES_OF,
  say,
  type BankLine,
  type Change,
  type JournalEntry,
  type Location,
  type Resource,
  type Settlement,
  type SourceDocument,
  type SystemRole,
} from '@axion/contract'
import { Fault, parseAmount, periodOf, tradingDayOf } from '@axion/core'
import { canonical, inEntity, inOrder, insertRows, json, type Transaction } from '../database/connection.ts'
import { unseal } from '../bridges/secrets.ts'
import type { Bridge } from '../bridges/client.ts'
import { Problem } from '../faults/problem.ts'
import { passes } from '../faults/errors.ts'
import { Cancelled, reasonOf } from '../jobs/ending.ts'
import type { Services } from '../services.ts'
import { lastDayOf } from '../tieout/periods.ts'
import type { SystemRow } from './held.ts'
import { applyScope } from './scope.ts'
import { pageOf, unstage } from './staged.ts'
import { unreadRow, type UnreadRow } from './unread.ts'

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
 * @param goesOn asked between pages; throws where somebody cancelled the run
 */
export async function pullSystem(
  services: Services,
  entityId: string,
  runId: string,
  system: SystemRow,
  step: (resource: string) => Promise<void>,
  goesOn: () => Promise<void>,
  month: string,
): Promise<PullCount[]> {
  const bridge = services.bridges.open(
    system.name,
    system.address,
    unseal(system.token_sealed, services.settings.AXION_SECRET_KEY),
    true,
  )
  const pullId = await inEntity(services.database, entityId, async (trx) => {
    const [row] = await trx('pull')
      .insert({ entity_id: entityId, system_id: system.system_id, run_id: runId, counts: '[]' })
      .returning('pull_id')
    return (row as { pull_id: string }).pull_id
  })
  try {
    return await readSystem(services, bridge, entityId, pullId, system, step, goesOn, month)
  } catch (error) {
    if (passes(error)) throw error
    const { code, facts } =
      error instanceof Cancelled
        ? new Problem('AXION_PULL_CANCELLED', { system: system.name })
        : reasonOf(error)
    await inEntity(services.database, entityId, (trx) =>
      trx('pull')
        .where({ entity_id: entityId, pull_id: pullId })
        .update({ problem: json({ code, facts }), ended: true, finished_at: trx.fn.now() }),
    )
    throw error instanceof Cancelled ? error : new Problem(code, facts)
  }
}

/** What the database, or something that nobody foresaw, makes of a resource is told with its name; the log has the rest. */
async function namingIt<T>(system: string, resource: Resource, work: () => Promise<T>): Promise<T> {
  try {
    return await work()
  } catch (error) {
    if (error instanceof Problem || passes(error)) throw error
    const { code, facts } = reasonOf(error)
    throw new Problem('AXION_PULL_BROKE', {
      system,
      resource: resource.replaceAll('-', ' '),
      detail: facts['detail'] ?? say(code, facts).says,
    })
  }
}

async function readSystem(
  services: Services,
  bridge: Bridge,
  entityId: string,
  pullId: string,
  system: SystemRow,
  step: (resource: string) => Promise<void>,
  goesOn: () => Promise<void>,
  month: string,
): Promise<PullCount[]> {
  const about = await bridge.about()
  const settings = await bridge.settings()
  await inEntity(services.database, entityId, (trx) =>
    trx('system')
      .where({ entity_id: entityId, system_id: system.system_id })
      .update({ about: json(about), settings: json(settings) }),
  )
  const counts: PullCount[] = []
  for (const resource of [
    ...RESOURCES_OF[system.role],
    ...ALSO_OF[system.role].filter((one) => about.resources.includes(one)),
  ]) {
    await step(resource)
    const changes = await changesOf(services, bridge, entityId, system.system_id, resource, goesOn)
    counts.push(
      await namingIt(system.name, resource, () =>
        inEntity(services.database, entityId, (trx) =>
          takeResource(trx, entityId, pullId, system, resource, changes, month),
        ),
      ),
    )
  }
  await inEntity(services.database, entityId, (trx) =>
    trx('pull')
      .where({ entity_id: entityId, pull_id: pullId })
      .update({ counts: json(counts), ended: true, finished_at: trx.fn.now() }),
  )
  return counts
}

async function changesOf(
  services: Services,
  bridge: Bridge,
  entityId: string,
  systemId: string,
  resource: Resource,
  goesOn: () => Promise<void>,
): Promise<Pulled> {
  const cursor = (await inEntity(services.database, entityId, (trx) =>
    trx('pull_cursor')
      .where({ entity_id: entityId, system_id: systemId, resource })
      .first('sequence', 'whole'),
  )) as { sequence: string; whole: boolean } | undefined
  // What could not be read is asked for again: its source may have been mended without a word.
  const items: Change[] = await unreadAgain(services, bridge, entityId, systemId, resource)
  let next = cursor?.sequence ?? '0'
  const staging = { database: services.database, entityId, systemId, resource }
  for (let more = true; more;) {
    await goesOn()
    const after = next
    const page = await pageOf(staging, after, () => bridge.page(resource, after))
    items.push(...page.items)
    ;({ next, more } = page)
  }
  return { items, next, whole: cursor?.whole === true }
}

async function unreadAgain(
  services: Services,
  bridge: Bridge,
  entityId: string,
  systemId: string,
  resource: Resource,
): Promise<Change[]> {
  const unread = (await inEntity(services.database, entityId, (trx) =>
    trx('finding')
      .where({ entity_id: entityId, system_id: systemId, resource })
      .whereNotNull('sequence')
      .orderBy('sequence')
      .limit(MOST_READ_AGAIN)
      .select('object_id', 'sequence'),
  )) as { object_id: string; sequence: string }[]
  const pages = await inOrder(unread, ({ sequence }) =>
    bridge.page(resource, (BigInt(sequence) - 1n).toString(), 1),
  )
  return pages.flatMap(({ items }, at) => items.filter((item) => item.id === unread[at]?.object_id))
}

/** So many objects that could not be read are asked for again in one pull. */
const MOST_READ_AGAIN = 200

/** The changes of one resource; where they are the whole of it, what is not among them is gone. */
export interface Pulled {
  readonly items: readonly Change[]
  readonly next: string
  readonly whole?: boolean
}

/** Takes changes of one resource, and notes what differs from what was held; what is in a bad shape is left out and said. */
export async function takeResource(
  trx: Transaction,
  entityId: string,
  pullId: string,
  system: SystemRow,
  resource: Resource,
  { items, next, whole = false }: Pulled,
  month: string,
): Promise<PullCount> {
  const count: PullCount = { resource, added: 0, changed: 0, removed: 0, unreadable: 0 }
  const here = { entity_id: entityId, system_id: system.system_id }
  // Of an object that changed twice since the last pull only its last state counts.
  const named = new Map(items.map((change) => [change.id, change]))
  const gone = whole
    ? (
        (await trx('held_object')
          .where({ ...here, resource, removed: false })
          .pluck('object_id')) as string[]
      ).filter((id) => !named.has(id))
    : []
  const latest = [
    ...named.values(),
    ...gone.map((id): Change => ({ id, sequence: next, revision: '', removed: true, value: null })),
  ]
  const ids = latest.map((change) => change.id)
  const unreadBefore = (await trx('finding')
    .where({ ...here, resource })
    .whereRaw('object_id = any(?)', [ids])
    .delete()
    .returning(['object_id', 'facts'])) as { object_id: string; facts: { problem?: string } }[]

  const { base_currency: booksCurrency } = (await trx('legal_entity')
    .where({ entity_id: entityId })
    .first('base_currency')) as { base_currency: string }
  const findings: (UnreadRow & { readonly object_id: string })[] = []
  const accepted: Accepted[] = []
  for (const change of latest) {
    const read = change.removed
      ? { value: null }
      : readValue(system.role, resource, change.value, booksCurrency)
    if ('value' in read) accepted.push({ change, value: read.value })
    else
      findings.push({
        ...here,
        object_id: change.id,
        ...unreadRow(system.name, resource, change, read.problem, month),
      })
  }
  count.unreadable = findings.length
  const store = storeOf(system.role, resource)
  const before = await store.before(trx, here, ids)
  await store.put(
    trx,
    here,
    accepted.filter((a) => a.value !== null),
  )
  await store.remove(
    trx,
    here,
    accepted.filter((a) => a.value === null).map((a) => a.change.id),
  )
  if (['documents', 'settlements', 'bank-lines'].includes(resource))
    await applyScope(trx, entityId, system.system_id, ids)

  const changes = accepted.flatMap(({ change, value }) => {
    const was = before.get(change.id)
    if (value === null ? was === undefined : was !== undefined && canonical(was) === canonical(value))
      return []
    const kind = value === null ? 'removed' : was === undefined ? 'added' : 'changed'
    count[kind]++
    return [
      {
        ...here,
        pull_id: pullId,
        resource,
        object_id: change.id,
        kind,
        label: labelOf(value ?? was),
        before: was ?? null,
        after: value,
      },
    ]
  })
  await insertRows(trx, 'finding', findings)
  const known = new Map(unreadBefore.map((row) => [row.object_id, row.facts.problem]))
  const noted = (objectId: string, kind: 'unreadable' | 'readable', label: string): object => ({
    ...here,
    pull_id: pullId,
    resource,
    object_id: objectId,
    kind,
    label,
    before: null,
    after: null,
  })
  await insertRows(trx, 'held_change', [
    ...changes,
    ...findings
      .filter((finding) => known.get(finding.object_id) !== finding.facts['problem'])
      .map((finding) => noted(finding.object_id, 'unreadable', finding.facts['label'] ?? finding.object_id)),
    ...accepted
      .filter(({ change }) => known.has(change.id))
      .map(({ change, value }) => noted(change.id, 'readable', labelOf(value) || change.id)),
  ])
  await unstage(trx, { ...here, resource })
  await trx('pull_cursor')
    .insert({ ...here, resource, sequence: next, whole: false })
    .onConflict(['entity_id', 'system_id', 'resource'])
    .merge()
  return count
}

/** Reads a value as the contract shapes it, in exact amounts; a bad one is told with where it is wrong. */
function readValue(
  role: SystemRole,
  resource: Resource,
  value: unknown,
  booksCurrency: string,
): { readonly value: unknown } | { readonly problem: string } {
  const read = RESOURCES[resource].safeParse(value)
  if (!read.success) {
    const [issue] = read.error.issues
    return { problem: `${issue?.path.join('.') || 'it'} ${issue?.message ?? ''}` }
  }
  try {
    if (resource === 'documents') {
      const document = read.data as SourceDocument
      if (!KINDS_OF[role].includes(document.kind))
        return { problem: `kind "${document.kind}" is none that a ${role} system has` }
      decodeDocument(document)
    }
    if (resource === 'settlements')
      for (const text of [(read.data as Settlement).amount, (read.data as Settlement).fee])
        parseAmount(text, (read.data as Settlement).currency)
    if (resource === 'bank-lines')
      parseAmount((read.data as BankLine).amount, (read.data as BankLine).currency)
    if (resource === 'journal-entries') {
      const problem = problemOfEntry(read.data as JournalEntry, booksCurrency)
      if (problem !== null) return { problem }
    }
    return { value: read.data }
  } catch (error) {
    if (error instanceof Fault) return { problem: say(error.code, error.facts).says.replace(/\.$/, '') }
    throw error
  }
}

interface Here {
  readonly entity_id: string
  readonly system_id: string
}

/** Where a resource's objects are kept as their system has them. */
interface ObjectStore {
  before(trx: Transaction, here: Here, ids: readonly string[]): Promise<Map<string, unknown>>
  put(trx: Transaction, here: Here, accepted: readonly Accepted[]): Promise<void>
  remove(trx: Transaction, here: Here, ids: readonly string[]): Promise<void>
}

async function valuesById(query: PromiseLike<unknown>): Promise<Map<string, unknown>> {
  return new Map(((await query) as { id: string; value: unknown }[]).map((row) => [row.id, row.value]))
}

function heldStore(resource: Resource): ObjectStore {
  return {
    before: (trx, here, ids) =>
      valuesById(
        trx('held_object')
          .where({ ...here, resource, removed: false })
          .whereRaw('object_id = any(?)', [[...ids]])
          .select('object_id as id', 'value'),
      ),
    put: (trx, here, accepted) =>
      insertRows(
        trx,
        'held_object',
        accepted.map(({ change, value }) => ({
          ...here,
          resource,
          object_id: change.id,
          revision: change.revision,
          value,
          removed: false,
        })),
        ['entity_id', 'system_id', 'resource', 'object_id'],
      ),
    remove: async (trx, here, ids) =>
      void (await trx('held_object')
        .where({ ...here, resource })
        .whereRaw('object_id = any(?)', [[...ids]])
        .update({ removed: true, value: null })),
  }
}

const DOCUMENTS: ObjectStore = {
  before: (trx, here, ids) =>
    valuesById(
      trx('source_document')
        .where(here)
        .whereRaw('document_id = any(?)', [[...ids]])
        // One that was removed and comes back is new, though it be unchanged.
        .whereRaw(`(status <> 'void' or value->>'status' = 'void')`)
        .select('document_id as id', 'value'),
    ),
  put: (trx, here, accepted) =>
    insertRows(
      trx,
      'source_document',
      accepted.map(({ change, value }) => {
        const { number, kind, status, documentDate, currency, party, creditsDocumentId } =
          value as SourceDocument
        return {
          ...here,
          document_id: change.id,
          revision: change.revision,
          number,
          kind,
          status,
          credits_document: creditsDocumentId,
          document_date: documentDate,
          period: periodOf(documentDate),
          currency,
          party: party.name,
          value,
        }
      }),
      ['entity_id', 'system_id', 'document_id'],
    ),
  // A document that vanished from its source stays here, void, so that what was booked of it is not forgotten.
  remove: async (trx, here, ids) =>
    void (await trx('source_document')
      .where(here)
      .whereRaw('document_id = any(?)', [[...ids]])
      .update({ status: 'void' })),
}

const ENTRIES: ObjectStore = {
  before: (trx, here, ids) =>
    valuesById(
      trx('ledger_entry')
        .where(here)
        .whereRaw('entry_id = any(?)', [[...ids]])
        .select('entry_id as id', 'value'),
    ),
  put: (trx, here, accepted) =>
    insertRows(
      trx,
      'ledger_entry',
      accepted.map(({ change, value }) => {
        const e = value as JournalEntry
        return {
          ...here,
          entry_id: change.id,
          revision: change.revision,
          external_id: e.externalId,
          booking_id: e.bookingId,
          booking_revision: e.bookingRevision,
          posting_date: e.postingDate,
          period: periodOf(e.postingDate),
          currency: e.currency,
          voided: e.voided,
          changed_by: e.changedBy,
          changed_at: e.changedAt,
          value: e,
        }
      }),
      ['entity_id', 'system_id', 'entry_id'],
    ),
  remove: async (trx, here, ids) =>
    void (await trx('ledger_entry')
      .where(here)
      .whereRaw('entry_id = any(?)', [[...ids]])
      .delete()),
}

/** What is pulled and not posted one to one: receipts, orders, bills, settlements, bank lines. */
function recordStore(resource: Resource): ObjectStore {
  return {
    before: (trx, here, ids) =>
      valuesById(
        trx('held_record')
          .where({ ...here, resource, removed: false })
          .whereRaw('record_id = any(?)', [[...ids]])
          .select('record_id as id', 'value'),
      ),
    put: async (trx, here, accepted) => {
      const places = new Map(
        (
          (await trx('held_object')
            .where({ ...here, resource: 'locations', removed: false })
            .select('object_id', 'value')) as { object_id: string; value: Location }[]
        ).map((row) => [row.object_id, row.value]),
      )
      await insertRows(
        trx,
        'held_record',
        accepted.map(({ change, value }) => {
          const { number, kind, currency, day } = recordOf(resource, value)
          const tradingDay = resource === 'documents' ? tradedOn(value as SourceDocument, places) : day
          return {
            ...here,
            resource,
            record_id: change.id,
            revision: change.revision,
            number,
            kind,
            day,
            trading_day: tradingDay,
            period: periodOf(day),
            currency,
            removed: false,
            value,
          }
        }),
        ['entity_id', 'system_id', 'resource', 'record_id'],
      )
    },
    remove: async (trx, here, ids) =>
      void (await trx('held_record')
        .where({ ...here, resource })
        .whereRaw('record_id = any(?)', [[...ids]])
        .update({ removed: true })),
  }
}

/** The trading day of a sale, worked out once, when it is taken: by its outlet's clock and cut-off where it names one. */
function tradedOn(
  { soldAt, locationId, documentDate }: SourceDocument,
  places: ReadonlyMap<string, Location>,
): string {
  const place = locationId === null ? undefined : places.get(locationId)
  return soldAt === null || !place
    ? documentDate
    : tradingDayOf(soldAt, place.timeZone, place.cutOff).tradingDay
}

function recordOf(
  resource: Resource,
  value: unknown,
): { readonly number: string; readonly kind: string; readonly currency: string; readonly day: string } {
  if (resource === 'bank-lines') {
    const { number, currency, bookedOn: day } = value as BankLine
    return { number, kind: 'bank-line', currency, day }
  }
  // A processor's instant carries its own offset: the day is the one that stood on its clock.
  if (resource === 'settlements') {
    const { number, kind, currency, at } = value as Settlement
    return { number, kind, currency, day: at.slice(0, 10) }
  }
  const { number, kind, currency, documentDate: day } = value as SourceDocument
  return { number, kind, currency, day }
}

function storeOf(role: SystemRole, resource: Resource): ObjectStore {
  if (resource === 'journal-entries') return ENTRIES
  if (resource === 'documents' && role === 'billing') return DOCUMENTS
  return ['documents', 'settlements', 'bank-lines'].includes(resource)
    ? recordStore(resource)
    : heldStore(resource)
}

/** The ledger's balances at the end of each month. */
export async function pullBalances(
  services: Services,
  entityId: string,
  { system_id: systemId, name, address, token_sealed: token }: SystemRow,
  months: readonly string[],
): Promise<void> {
  const bridge = services.bridges.open(name, address, unseal(token, services.settings.AXION_SECRET_KEY), true)
  for (const period of months) {
    const { items } = await bridge.balances(`${period}-01`, lastDayOf(period))
    await inEntity(services.database, entityId, async (trx) => {
      const accounts = (await trx('held_object')
        .where({ entity_id: entityId, system_id: systemId, resource: 'accounts', removed: false })
        .select('object_id', trx.raw(`value->>'number' as number`))) as {
        object_id: string
        number: string
      }[]
      await trx('ledger_balance').where({ entity_id: entityId, system_id: systemId, period }).delete()
      await insertRows(
        trx,
        'ledger_balance',
        items.flatMap(({ accountId, currency, opening, closing }) => {
          const account = accounts.find((a) => a.object_id === accountId)?.number
          return account === undefined
            ? []
            : [
                {
                  entity_id: entityId,
                  system_id: systemId,
                  period,
                  account,
                  currency,
                  opening: parseAmount(opening, currency).toString(),
                  closing: parseAmount(closing, currency).toString(),
                },
              ]
        }),
      )
    })
  }
}

export function labelOf(value: unknown): string {
  const named = (value ?? {}) as { name?: unknown; number?: unknown }
  return String(named.number ?? named.name ?? '')
}
