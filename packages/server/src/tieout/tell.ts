import { createHash } from 'node:crypto'
import { say, type Code, type Committed, type RemedyPreview, type RunView } from '@axion/contract'
import { formatAmount, sum } from '@axion/core'
import { audit } from '../audit/audit.ts'
import { unseal } from '../bridges/secrets.ts'
import { changing, inEntity, type Books } from '../database/connection.ts'
import { json } from '../database/json.ts'
import { externalStem } from '../documents/ids.ts'
import type { StoredDocument } from '../documents/units.ts'
import { Problem } from '../faults/problem.ts'
import { readCommitted, type CommittedRow } from '../proof/committed.ts'
import type { Flaw } from '../proof/flaws.ts'
import { matterKey } from '../proof/matter.ts'
import type { Services } from '../services/services.ts'
import { keptTax } from './chain/kept.ts'
import { loadHeld, type HeldSystem } from '../setUp/held.ts'

/** What was found of what a tax service keeps, and what it can be told about it. */
export const TOLD: readonly Code[] = [
  'AXION_COMMITTED_DIFFERS',
  'AXION_NOT_COMMITTED',
  'AXION_CANCELLED_THERE',
  'AXION_COMMITTED_STILL',
  'AXION_COMMITTED_TWICE',
  'AXION_COMMITTED_NOBODYS',
]

/** One document that a service is told of: to keep it, as it is, or no more. */
interface Telling {
  readonly named: string
  readonly number: string
  /** What it keeps it under, at which revision; null of what it never heard of. */
  readonly kept: { readonly id: string; readonly revision: string } | null
  readonly fields: Committed | Pick<Committed, 'status'>
  readonly from: string
  readonly to: string
  /** Of what is new: the same document at the same revision makes no second one. */
  readonly key: string
}
interface Tellings {
  readonly service: HeldSystem
  readonly tellings: readonly Telling[]
  /** What cannot be told: something that it names is linked to nothing there. */
  readonly cannot: RunView['problems']
  readonly unproved: bigint
}
interface Concerned {
  readonly named: string
  readonly number: string
  readonly unproved: string
  readonly entry_id: string | null
  readonly system_id: string
  readonly document_id: string | null
  readonly flaws: readonly Flaw[]
}

/** The service of a cause, as its key names it; undefined where nothing of it can be told. */
function serviceOf(systems: readonly HeldSystem[], cause: string): HeldSystem | undefined {
  return systems.find(
    ({ row }) =>
      row.about.takes.includes('committed') &&
      TOLD.some((code) => cause === matterKey({ kind: 'flawed', code, facts: { system: row.name } })),
  )
}

/** Whether a cause is one that its service can be told about. */
export function canTell(systems: readonly HeldSystem[], cause: string): boolean {
  return serviceOf(systems, cause) !== undefined
}

async function tellingsOf(books: Books, month: string, cause: string): Promise<Tellings> {
  const { trx, entityId } = books
  const systems = await loadHeld(books)
  const service = serviceOf(systems, cause)
  if (!service) throw new Problem('AXION_STALE', { what: 'This cause' })
  const { rows } = (await trx.raw(
    `select u.named, u.number, u.unproved::text, u.entry_id, u.system_id, u.document_id, u.flaws from unit u
     where u.entity_id = :e and u.period = :month and u.cause = :cause and not u.proved order by u.named`,
    { e: entityId, month, cause },
  )) as { rows: Concerned[] }
  const documents = (await trx('document')
    .where({ entity_id: entityId })
    .whereRaw('named = any(?)', [rows.map(({ named }) => named)])
    .select('*')) as (StoredDocument & { readonly named: string; readonly number: string })[]
  const kept = await keptOf(books, service, rows, documents)
  const found = rows.map((row) =>
    tellingOf({ entityId, service, systems }, row, {
      document: documents.find(({ named }) => named === row.named),
      rows: kept,
    }),
  )
  return {
    service,
    tellings: found.flatMap((one) => ('tellings' in one ? one.tellings : [])),
    cannot: found.flatMap((one) => ('problem' in one ? [one.problem] : [])),
    unproved: sum(rows.map(({ unproved }) => BigInt(unproved))),
  }
}

type Kept = CommittedRow & { readonly revision: string }

async function keptOf(
  books: Books,
  { row }: HeldSystem,
  concerned: readonly Concerned[],
  documents: readonly (StoredDocument & { readonly number: string })[],
): Promise<readonly Kept[]> {
  const behind = await readCommitted(books, documents)
  const own = behind.rows.filter((one) => one.system_id === row.system_id)
  const ids = [...own.map((one) => one.committed_id), ...concerned.flatMap(({ entry_id: id }) => id ?? [])]
  return (await books
    .trx('committed_document')
    .where({ entity_id: books.entityId, system_id: row.system_id })
    .whereRaw('committed_id = any(?)', [ids])
    .orderBy('committed_id')
    .select(
      'system_id',
      'committed_id',
      'kind',
      'number',
      'source_document',
      'status',
      'revision',
      books.trx.raw('value::text as value'),
    )) as Kept[]
}

interface Around {
  readonly entityId: string
  readonly service: HeldSystem
  readonly systems: readonly HeldSystem[]
}

function tellingOf(
  { entityId, service, systems }: Around,
  unit: Concerned,
  { document, rows }: { readonly document: StoredDocument | undefined; readonly rows: readonly Kept[] },
): { readonly tellings: readonly Telling[] } | { readonly problem: RunView['problems'][number] } {
  const own = rows.filter((row) =>
    unit.entry_id === null
      ? document !== undefined &&
        row.kind === document.kind &&
        (row.source_document === document.document_id ||
          (row.source_document === null && row.number === document.value.number))
      : row.committed_id === unit.entry_id,
  )
  const standing = own.filter(({ status }) => status === 'committed')
  const of = (row: Kept | null, fields: Telling['fields'], to: string): Telling => ({
    named: unit.named,
    number: unit.number,
    kept: row && { id: row.committed_id, revision: row.revision },
    fields,
    from: row === null ? 'nothing' : keptText(row),
    to,
    key: `${externalStem(entityId, unit.system_id, unit.document_id ?? unit.entry_id ?? '')}${document?.revision ?? ''}/committed`,
  })
  const cancel = (row: Kept): Telling => of(row, { status: 'cancelled' }, 'cancelled')
  if (!document || document.status === 'void') return { tellings: standing.map(cancel) }
  if (standing.length > 1) return { tellings: standing.slice(1).map(cancel) }
  const from = systems.find(({ row }) => row.system_id === document.system_id)
  const told = from && toldOf(document, from, service)
  if (!told || 'lacks' in told)
    return {
      problem: {
        what: unit.number,
        ...say('AXION_LACKS_LINK', { system: service.row.name, what: told?.lacks ?? unit.number }),
      },
    }
  return { tellings: [of(standing[0] ?? own[0] ?? null, told, taxText(told))] }
}

/** A document as a service is told of it, under its own rates and agencies; or what it has none of. */
function toldOf(
  { document_id: documentId, value }: StoredDocument,
  from: HeldSystem,
  service: HeldSystem,
): Committed | { readonly lacks: string } {
  const rateOf = (id: string): string | undefined => {
    const rate = from.combinedRateOf(id)
    return rate === null ? undefined : service.linkedTo('combined-rate', rate)[0]
  }
  const agencyOf = (id: string): string | undefined => {
    const agency = from.agencyOf(id)
    return agency === null ? undefined : service.linkedTo('agency', agency)[0]
  }
  const nameOf = (
    held: readonly { readonly id: string; readonly value: { readonly name: string } }[],
    id: string,
  ): string => held.find((one) => one.id === id)?.value.name ?? id
  const taxes: Committed['taxes'] = []
  for (const tax of value.taxes) {
    const taxRateId = rateOf(tax.taxRateId)
    if (taxRateId === undefined) return { lacks: nameOf(from.rates, tax.taxRateId) }
    const lost = tax.components?.find(({ agencyId }) => agencyOf(agencyId) === undefined)
    if (lost) return { lacks: nameOf(from.agencies, lost.agencyId) }
    const components = tax.components?.map((part) => ({ ...part, agencyId: agencyOf(part.agencyId) ?? '' }))
    taxes.push({ ...tax, taxRateId, components: components ?? null })
  }
  const { number, kind, documentDate, currency, exchangeRate, webAddress } = value
  return {
    number,
    kind,
    documentId,
    status: 'committed',
    documentDate,
    currency,
    exchangeRate,
    taxes,
    webAddress,
  }
}

const taxText = (told: Committed): string => `${keptTax(told)} ${told.currency} of tax`
const keptText = ({ status, value }: Kept): string =>
  status === 'cancelled' ? 'cancelled' : taxText(JSON.parse(value) as Committed)

/** What a remedy would tell a service: nothing leaves. */
export async function previewTelling(books: Books, month: string, cause: string): Promise<RemedyPreview> {
  const { service, tellings, cannot, unproved } = await tellingsOf(books, month, cause)
  const [problem] = cannot
  if (tellings.length === 0)
    throw problem
      ? new Problem('AXION_LACKS_LINK', { system: service.row.name, what: problem.what })
      : new Problem('AXION_STALE', { what: 'This cause' })
  return {
    remedy: { kind: 'tell', cause },
    system: service.row.name,
    object: '',
    revision: revisionOf(tellings),
    changes: tellings.slice(0, MOST_SHOWN).map(({ number, from, to }) => ({ field: number, from, to })),
    currency: books.currency,
    journal: [],
    numbers: [],
    documents: tellings.length,
    unproved: formatAmount(unproved, books.currency),
  }
}

/** So many are shown before they are told; the count is of all. */
const MOST_SHOWN = 50

function revisionOf(tellings: readonly Telling[]): string {
  return createHash('sha256')
    .update(json(tellings.map(({ kept, fields, key }) => [kept, fields, key])))
    .digest('base64url')
}

/**
 * Tells a service what was previewed, one document after the other: each under the revision that it was read at, or under a key of its own, so
 * that whoever does it again does nothing twice. What the service refuses is said, and the others are told.
 * @throws AXION_STALE where something else would be told now
 */
export async function tell(
  services: Services,
  entityId: string,
  { month, cause, revision }: { readonly month: string; readonly cause: string; readonly revision: string },
): Promise<{ readonly told: number; readonly problems: RunView['problems'] }> {
  const { database, bridges, settings } = services
  const { service, tellings, cannot } = await inEntity(database, entityId, (books) =>
    tellingsOf(books, month, cause),
  )
  if (revision !== revisionOf(tellings)) throw new Problem('AXION_STALE', { what: 'This cause' })
  const { name, address, token_sealed: token } = service.row
  const bridge = bridges.open(name, address, unseal(token, settings.AXION_SECRET_KEY))
  const problems = [...cannot]
  let told = 0
  for (const { number, kept, fields, key, from, to } of tellings) {
    try {
      if (kept) await bridge.change('committed', kept.id, fields, kept.revision)
      else await bridge.create('committed', fields, key, number)
    } catch (error) {
      if (!(error instanceof Problem)) throw error
      problems.push({ what: number, ...say(error.code, error.facts) })
      continue
    }
    told++
    await changing(database, entityId, ({ trx }) =>
      audit(trx, 'told', `${name}: ${number}`, { before: { kept: from }, after: { kept: to } }),
    )
  }
  return { told, problems }
}
