import { ensureAligned } from '../align/build.ts'
import { openingDay } from '../connect/openingDay.ts'
import { pullBalances, pullSystem } from '../connect/pull.ts'
import type { PullCount } from '../connect/take.ts'
import { changing, inEntity, type Books } from '../database/connection.ts'
import { TAKEN_BACK } from '../documents/standing.ts'
import { GONE_THERE, move, NO_REASON, OF_A_DOCUMENT, releaseAbandoned } from '../documents/states.ts'
import { Problem } from '../faults/problem.ts'
import { Cancelled, TurnOver } from '../jobs/ending.ts'
import { othersWait } from '../jobs/leases.ts'
import { noteRun, noteRunIn, readRun } from '../jobs/runs.ts'
import { recogniseBooked } from '../post/rehearse.ts'
import { certainAgain } from '../post/restored.ts'
import { noteAllProved } from '../proof/due.ts'
import { monthsOf, prove } from '../proof/prove.ts'
import type { Services } from '../services/services.ts'
import { noteSetUp } from '../setUp/clock.ts'
import { connectedSystems, isFiles } from '../setUp/held.ts'
import { touchedBy } from './touched.ts'

export interface PullReport {
  readonly system: string
  readonly counts: readonly PullCount[]
  /** Why this system could not be pulled; the others were. */
  readonly problem: { readonly code: string; readonly facts: object } | null
}

interface Wanted {
  readonly runId: string
  readonly month: string
  /** All that are connected where it is null. */
  readonly systemIds: readonly string[] | null
  /** Whether somebody may end it between pages, or others have their turn there: a pull that another act ends with goes to its end. */
  readonly cancellable?: boolean
}

/**
 * Pulls systems, takes note of what is booked by now, and proves what changed, in whatever month it stands.
 * A system that is down spoils only its own part.
 * @throws Cancelled, TurnOver
 */
export async function pullAndProve(
  services: Services,
  entityId: string,
  { runId, month, systemIds, cancellable = false }: Wanted,
): Promise<PullReport[]> {
  const { database } = services
  const systems = (await inEntity(database, entityId, (books) => connectedSystems(books))).filter(
    (s) => systemIds === null || systemIds.includes(s.system_id),
  )
  // A run whose last slice came so far goes on with the next system.
  const before = cancellable ? ((await readRun(database, entityId, runId))?.report['pulled'] ?? []) : []
  const reports = [...(before as PullReport[])]
  const endOfTurn = performance.now() + services.settings.AXION_SLICE * 1000
  let asked = 0
  let cancelled: Cancelled | null = null
  const spared = async (system: string, work: () => Promise<readonly PullCount[]>): Promise<void> => {
    try {
      reports.push({ system, counts: await work(), problem: null })
    } catch (error) {
      if (error instanceof Cancelled) return void (cancelled = error)
      if (error instanceof TurnOver) await noteRun(database, entityId, runId, { report: { pulled: reports } })
      if (!(error instanceof Problem)) throw error
      reports.push({ system, counts: [], problem: { code: error.code, facts: error.facts } })
    }
  }
  const goesOn = async (): Promise<void> => {
    if (!cancellable) return
    if ((await readRun(database, entityId, runId))?.cancel_requested) throw new Cancelled()
    // Each turn reads something, however short it is.
    const isOver = asked++ > 0 && performance.now() > endOfTurn
    if (isOver && (await othersWait(database, entityId))) throw new TurnOver()
  }
  for (const system of systems.filter((one) => !isFiles(one))) {
    if (cancelled) break
    if (reports.some((report) => report.system === system.name)) continue
    await spared(system.name, () =>
      pullSystem(services, entityId, {
        runId,
        system,
        month,
        goesOn,
        step: (books, resource) =>
          noteRunIn(books, runId, { step: `${system.name}: ${resource.replaceAll('-', ' ')}` }),
      }),
    )
  }
  const ledger = systems.find((s) => s.role === 'ledger' && !isFiles(s))
  if (ledger && reports.some((r) => r.system === ledger.name && r.problem === null)) {
    const months = new Set([...(await inEntity(database, entityId, balancesOf)), month])
    const read = reports.length
    await spared(ledger.name, async () => {
      await pullBalances(services, entityId, ledger, [...months])
      return []
    })
    if (reports.at(-1)?.problem === null) reports.splice(read)
  }
  await noteRun(database, entityId, runId, { step: 'proving' })
  await changing(database, entityId, async (books) => {
    await noteBooked(books)
    if (ledger && reports.some((r) => r.system === ledger.name && r.problem === null))
      await certainAgain(books, runId)
    await provePulled(books, month)
  })
  // By now the planner knows the size of what was proved.
  await inEntity(database, entityId, (books) => ensureAligned(books, month))
  // What was taken before somebody cancelled is proved all the same.
  if (cancelled) throw cancelled as Cancelled
  return reports
}

/** The months whose balances are asked for: those in which something stands, and the first of the books. */
async function balancesOf(books: Books): Promise<readonly string[]> {
  const opening = await openingDay(books)
  return [...(await monthsOf(books)), ...(opening === null ? [] : [opening.day.slice(0, 7)])]
}

/** Proves what pulls brought that nobody has proved yet, in whatever month it stands. */
export async function provePulled(
  books: Books,
  month: string,
  found?: Awaited<ReturnType<typeof touchedBy>>,
): Promise<void> {
  const { trx, entityId } = books
  const { months, touched, setUp } = found ?? (await touchedBy(books))
  if (setUp) await noteSetUp(books)
  for (const each of new Set([...months, month])) await prove(books, each, touched)
  await noteAllProved(books)
  // One that has not come to its end brings more, which is to be proved then.
  await trx('pull')
    .where({ entity_id: entityId, ended: true })
    .whereNull('proved_at')
    .update({ proved_at: trx.fn.now() })
}

/**
 * A booking is booked when the ledger's own journal shows it, whatever was thought of it before: one in doubt or failed is settled so
 * too. What its source changed since then waits to be booked again, or taken back where it is void there.
 */
async function noteBooked(books: Books): Promise<void> {
  await recogniseBooked(books)
  const entry = 'e.entity_id = b.entity_id'
  await move(books, 'seen', {
    to: 'booked',
    set: `${NO_REASON}, ledger_booking_id = coalesce(b.ledger_booking_id, e.booking_id), ledger_revision = coalesce(b.ledger_revision, e.booking_revision)`,
    from: 'ledger_entry e',
    where: `${entry} and e.external_id = b.external_id and not e.voided and b.action = 'book' and (b.ledger_booking_id is null or e.booking_id is null or e.booking_id = b.ledger_booking_id) and not ${TAKEN_BACK}`,
  })
  await move(books, 'relearned', {
    to: 'changed',
    set: NO_REASON,
    from: 'ledger_entry e',
    where: `${entry} and e.external_id = b.external_id and e.booking_id = b.ledger_booking_id and not e.voided and b.action = 'book' and ${OF_A_DOCUMENT}`,
  })
  // A void shows in the journal too, whatever became of its answer.
  await move(books, 'void-seen', {
    to: 'withdrawn',
    set: `${GONE_THERE}, ${NO_REASON}`,
    from: 'ledger_entry e',
    where: `${entry} and e.booking_id = b.ledger_booking_id and e.voided and b.action = 'void'`,
  })
  // A booking for the same amounts on the other side takes its document's booking out, where a ledger has no void.
  await move(books, 'reversed', {
    to: 'withdrawn',
    set: GONE_THERE,
    from: 'ledger_entry e',
    where: `${entry} and e.external_id = b.external_id and e.booking_id = b.ledger_booking_id and not e.voided and ${TAKEN_BACK} and ${OF_A_DOCUMENT}`,
  })
  // What somebody voided in the ledger is gone there: it can only be booked anew.
  await move(books, 'voided-there', {
    to: 'changed',
    set: GONE_THERE,
    from: 'ledger_entry e',
    where: `${entry} and e.booking_id = b.ledger_booking_id and e.voided and b.action = 'book' and ${OF_A_DOCUMENT}`,
  })
  const source =
    'd.entity_id = b.entity_id and d.system_id = b.system_id and d.document_id = b.document_id and d.kind = b.kind'
  await releaseAbandoned(books)
  await move(books, 'changed-at-source', {
    to: 'changed',
    from: 'source_document d',
    where: `${source} and d.revision <> b.source_revision and d.status not in ('void', 'draft')`,
  })
  // A void source has nothing to send any more; what is booked of it stays until it is taken back.
  await move(books, 'void-at-source', {
    to: { sql: `case when b.ledger_booking_id is null then 'withdrawn' else 'booked' end` },
    set: 'run_id = null',
    from: 'source_document d',
    where: `${source} and d.status = 'void'`,
  })
}
