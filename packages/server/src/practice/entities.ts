import type { EntityChange, EntityView, Founding } from '@axion/contract'
import { audit } from '../audit/audit.ts'
import {
  changingMembers,
  inDirectory,
  inPractice,
  type Books,
  type Database,
} from '../database/connection.ts'
import { isDouble } from '../database/sqlState.ts'
import { Problem } from '../faults/problem.ts'

/** @throws AXION_ALREADY_EXISTS */
export async function foundEntity(database: Database, founding: Founding): Promise<void> {
  const { id, name, country, currency, timeZone, locale, yearBegins } = founding
  try {
    await inPractice(database, (trx) =>
      trx.raw('select found_entity(?, ?, ?, ?, ?, ?, ?)', [
        ...[id, name, country, currency, timeZone, locale],
        yearBegins,
      ]),
    )
  } catch (error) {
    throw isDouble(error) ? new Problem('AXION_ALREADY_EXISTS', { what: `The legal entity ${id}` }) : error
  }
}

/** As the directory knows it. */
export function entityView(database: Database, id: string): Promise<EntityView> {
  return inDirectory(database, id, async ({ trx }) => {
    const row = (await trx('legal_entity')
      .where({ entity_id: id })
      .first(
        'entity_id as id',
        'name',
        'country',
        'base_currency as currency',
        'time_zone as timeZone',
        'locale',
        'year_begins as yearBegins',
        'closed_on as closedOn',
      )) as EntityView | undefined
    if (!row) throw new Problem('AXION_NOT_FOUND', { what: 'such legal entity' })
    return row
  })
}

type Fields = Readonly<Record<'name' | 'locale', string>> & { readonly year_begins: number | null }

/** Renames it, and what else of it may change: in the directory, and in its books where they are elsewhere. */
export async function changeEntity(database: Database, id: string, change: EntityChange): Promise<void> {
  const { name, locale, yearBegins } = change
  await changingMembers(database, id, async (directory, books) => {
    const before = (await books
      .trx('legal_entity')
      .where({ entity_id: id })
      .first('name', 'locale', 'year_begins')) as Fields
    const after: Fields = { name, locale, year_begins: yearBegins }
    if (Object.entries(after).every(([field, value]) => before[field as keyof Fields] === value)) return
    await write(directory, books, after)
    await audit(books.trx, 'changed-entity', name, {
      before: { name: before.name, locale: before.locale, yearBegins: before.year_begins },
      after: { name, locale, yearBegins },
    })
  })
}

/**
 * Closes an entity from a day on, or opens it again (null). What is there stays, and is read.
 * @throws AXION_RUNS_UNDER_WAY where something would go on writing
 */
export async function closeEntity(database: Database, id: string, on: string | null): Promise<void> {
  await changingMembers(database, id, async (directory, books) => {
    const before = await closedOf(books)
    // Where the books are elsewhere, one of the two may have been written alone.
    const known = directory === books ? before : await closedOf(directory)
    if ([before, known].every((one) => (one.closed_on === null) === (on === null))) return
    const run = (await books
      .trx('run')
      .where({ entity_id: id })
      .whereIn('state', ['queued', 'running'])
      .first('started_by')) as { started_by: string } | undefined
    if (on !== null && run) throw new Problem('AXION_RUNS_UNDER_WAY', { person: run.started_by })
    await write(directory, books, { closed_on: on })
    await audit(books.trx, on === null ? 'reopened-entity' : 'closed-entity', before.name, {
      before: { closedOn: before.closed_on },
      after: { closedOn: on },
    })
  })
}

async function closedOf({ trx, entityId }: Books): Promise<{ name: string; closed_on: string | null }> {
  return (await trx('legal_entity').where({ entity_id: entityId }).first('name', 'closed_on')) as {
    name: string
    closed_on: string | null
  }
}

async function write(
  directory: Books,
  books: Books,
  fields: Fields | { readonly closed_on: string | null },
): Promise<void> {
  // Where the books are in the directory, both are the same transaction.
  for (const { trx, entityId } of new Set([directory, books]))
    await trx('legal_entity').where({ entity_id: entityId }).update(fields)
}
