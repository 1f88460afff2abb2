import { ConnectView, say, Scope, type CheckView, type Code } from '@axion/contract'
import { inOrder, type Books } from '../database/connection.ts'
import type { Columns } from '../database/row.ts'
import { connectedSystems, isFiles, type SystemRow } from '../setUp/held.ts'
import { computingFor } from './computing.ts'
import { lastPulls, notFresh } from './fresh.ts'
import { CHECKS, type CheckResult } from './readiness.ts'
import { leftOutOf } from './scope.ts'
import { streamsOf } from './silence.ts'
import { fieldsOf } from '../audit/fields.ts'

const MOST_CHANGES = 12

type SystemView = ConnectView['systems'][number]

interface CheckRow extends Columns<'readiness', 'system_id' | 'check_code'> {
  readonly state: 'passes' | 'fails' | 'open'
  readonly facts: { readonly fact: string }
}

interface FindingRow extends Columns<'finding', 'system_id'> {
  readonly code: Code
  readonly facts: Record<string, string>
}

/** @param administers whether whoever asks connects systems, and is told where their bridges are */
export async function connectView(
  books: Books,
  {
    month,
    today,
    administers,
  }: { readonly month: string; readonly today: string; readonly administers: boolean },
): Promise<ConnectView> {
  const { trx, entityId, currency } = books
  const systems = await connectedSystems(books)
  const results = (await trx('readiness').where({ entity_id: entityId, period: month })) as CheckRow[]
  const findings = (await trx('finding').where({ entity_id: entityId })) as FindingRow[]
  const streams = await streamsOf(books, month, today)
  const leftOut = await leftOutOf(books, month, systems)
  const schedules = await schedulesOf(books)
  const computing = await computingFor(books)
  return {
    currency,
    disconnected: await disconnectedOf(books),
    systems: await inOrder(systems, async (system) => {
      const id = system.system_id
      return {
        ...(await pulledOf(books, system)),
        id,
        role: system.role,
        name: system.name,
        product: system.about.product,
        company: system.about.company.name,
        webAddress: system.about.webAddress,
        computesFor: computing.get(id) ?? null,
        bridgeAddress: administers && !isFiles(system) ? system.address : null,
        checks: sayChecks(
          results
            .filter((result) => result.system_id === id)
            .map(({ check_code: code, state, facts }) => ({ code, state, fact: facts.fact })),
        ),
        byFiles: isFiles(system),
        goesOut: system.goesOut,
        schedule: schedules.get(id) ?? null,
        leftOut: leftOut.get(id) ?? { documents: 0, tax: null, total: null },
        streams: streams
          .filter((stream) => stream.systemId === id)
          .map(({ name, documents, silence }) => ({
            name,
            documents,
            silence: silence && { since: silence.since, days: silence.days, ...silence.usual },
          })),
        findings: findings.filter((f) => f.system_id === id).map((f) => say(f.code, f.facts)),
      }
    }),
  }
}

async function schedulesOf({ trx, entityId }: Books): Promise<ReadonlyMap<string, Scope['schedule']>> {
  const rows = (await trx('system_scope').where({ entity_id: entityId }).select('system_id', 'scope')) as {
    system_id: string
    scope: Scope
  }[]
  return new Map(rows.map(({ system_id, scope }) => [system_id, scope.schedule]))
}

async function disconnectedOf({ trx, entityId }: Books): Promise<ConnectView['disconnected']> {
  const rows = (await trx('system')
    .where({ entity_id: entityId })
    .whereNotNull('disconnected_at')
    .orderBy('name')
    .select('system_id', 'name', 'role', 'address', 'disconnected_at')) as {
    system_id: string
    name: string
    role: SystemRow['role']
    address: string
    disconnected_at: Date
  }[]
  return rows.map(({ system_id: id, name, role, address, disconnected_at }) => ({
    id,
    name,
    role,
    byFiles: isFiles({ address }),
    at: disconnected_at.toISOString(),
  }))
}

/** What the last good pull of a system brought. */
async function pulledOf(
  books: Books,
  system: SystemRow,
): Promise<Pick<SystemView, 'pulledAt' | 'notFresh' | 'lastPull' | 'changes' | 'moreChanges'>> {
  const { good: pull } = await lastPulls(books, system.system_id)
  const [stale] = await notFresh(books, [system])
  const { changes, more } = pull ? await changesOf(books, pull.pull_id) : { changes: [], more: 0 }
  return {
    pulledAt: pull?.finished_at.toISOString() ?? null,
    notFresh: stale ?? null,
    lastPull: pull?.counts ?? [],
    changes,
    moreChanges: more,
  }
}

/** The checks that are a system's own, with how each came out; none where it was never checked. */
export function sayChecks(results: readonly CheckResult[]): CheckView[] {
  return CHECKS.flatMap(({ code, group, question, why, mend, blocks }) => {
    const result = results.find((one) => one.code === code)
    return result
      ? [{ code, group, question, why, mend, blocks, state: result.state, fact: result.fact }]
      : []
  })
}

/** What a pull changed, field by field; what is new altogether is only counted. */
async function changesOf(
  { trx, entityId }: Books,
  pullId: string,
): Promise<{ changes: ConnectView['systems'][number]['changes']; more: number }> {
  const rows = await trx('held_change')
    .where({ entity_id: entityId, pull_id: pullId })
    .whereNot({ kind: 'added' })
    .orderBy('change_id')
  const changes = rows.slice(0, MOST_CHANGES).map(({ resource, label, kind, before, after }) => {
    return { resource, label, kind, fields: fieldsOf(before, after).slice(0, 6) }
  })
  return { changes, more: Math.max(0, rows.length - MOST_CHANGES) }
}
