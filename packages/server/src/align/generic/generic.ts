import { DOCUMENT, kindsWith, type GenericCustomer, type GenericView } from '@axion/contract'
import { loadBaseline } from '../../baseline/load.ts'
import type { Books } from '../../database/connection.ts'
import { genericOf } from '../../documents/units.ts'
import { Problem } from '../../faults/problem.ts'
import { compareAfter } from '../../post/compareAfter.ts'
import { noteSetUp } from '../../setUp/clock.ts'
import { EVERYBODY, loadHeld, type HeldSystem } from '../../setUp/held.ts'
import { recordBatch } from '../../setUp/steps.ts'
import { audit } from '../../audit/audit.ts'
import { putLink } from '../links.ts'

/** So many names are told; the count is of all. */
const NAMED = 20
/** A first month that is before every booking. */
const EVER = '0001-01'

/** Roles whose documents name customers: what they sell is theirs to hold as one. */
const SELLING: ReadonlySet<string> = new Set(
  kindsWith(({ purchase }) => !purchase).map((kind) => DOCUMENT[kind].role),
)

/** For each system that sells, whom its customers count as where nobody agreed on one of them, and whose exemption there counts for nothing then. */
export async function genericView(books: Books): Promise<GenericView> {
  const index = await loadBaseline(books)
  const systems = (await loadHeld(books, ['parties'])).filter(({ row }) => SELLING.has(row.role))
  return {
    choices: index.baseline.parties.filter(({ catchAll }) => catchAll).map(({ id, name }) => ({ id, name })),
    systems: systems.map((held) => {
      const unknown = held.parties.filter(({ id }) => index.party(held.partyOf(id)) === undefined)
      const exempt = unknown.filter(({ value }) => value.exemption !== null).map(({ value }) => value.name)
      return {
        systemId: held.row.system_id,
        name: held.row.name,
        party: genericOf(held, index),
        customers: unknown.length,
        exempt: exempt.length,
        exemptNames: exempt.sort().slice(0, NAMED),
      }
    }),
  }
}

/**
 * Agrees that whoever buys of a system, and is nobody's whom the baseline knows, counts as one customer that stands for many; or that each counts
 * as itself again. Every month is to be proved anew.
 * @throws AXION_NOT_FOUND of a system or customer, AXION_NO_CATCH_ALL of one that stands for itself, AXION_NOTHING_TO_DO
 */
export async function setGeneric(
  books: Books,
  person: string,
  { systemId, party }: GenericCustomer,
): Promise<void> {
  const index = await loadBaseline(books)
  const held = (await loadHeld(books, [])).find(({ row }) => row.system_id === systemId)
  if (!held || !SELLING.has(held.row.role))
    throw new Problem('AXION_NOT_FOUND', { what: 'such system that sells' })
  const found = party === null ? null : index.party(party)
  if (found === undefined) throw new Problem('AXION_NOT_FOUND', { what: 'such customer in the baseline' })
  if (found?.catchAll === false) throw new Problem('AXION_NO_CATCH_ALL', { party: found.name })
  if (held.genericParty() === party)
    throw new Problem('AXION_NOTHING_TO_DO', { what: 'change: it is agreed so' })
  if (found) {
    const step = await putLink(books, person, linkOf(held, found.id))
    await recordBatch(books, { person, action: 'generic', says: `${found.name}, ${held.row.name}` }, [step])
  } else await takeOff(books, person, held)
  await noteSetUp(books)
  await compareAfter(books, { from: EVER, startedBy: person })
}

const linkOf = (held: HeldSystem, baselineId: string) =>
  ({ systemId: held.row.system_id, kind: 'party', objectId: EVERYBODY, baselineId }) as const

async function takeOff(books: Books, person: string, held: HeldSystem): Promise<void> {
  const before = held.genericParty()
  const { systemId, kind, objectId } = linkOf(held, '')
  await books
    .trx('link')
    .where({ entity_id: books.entityId, system_id: systemId, kind, object_id: objectId })
    .delete()
  await audit(books.trx, 'unlinked', `${held.row.name}: everybody`, { before: { baseline: before } })
  await recordBatch(books, { person, action: 'unlinked', says: `everybody, ${held.row.name}` }, [
    { did: 'linked', systemId, kind, objectId, before, after: null },
  ])
}
