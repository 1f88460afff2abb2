import { ConnectView, say, Scope, type Code } from '@axion/contract'
import { inOrder, type Books } from '../database/connection.ts'
import { connectedSystems, isFiles, type SystemRow } from '../setUp/held.ts'
import { lastPulls, notFresh } from './fresh.ts'
import { CHECKS } from './readiness.ts'
import { leftOutOf } from './scope.ts'
import { streamsOf } from './silence.ts'
import { fieldsOf } from '../audit/fields.ts'

const MOST_CHANGES = 12

export async function connectView(books: Books, month: string, today: string): Promise<ConnectView> {
  const { trx, entityId, currency } = books
  const systems = await connectedSystems(books)
  const results = (await trx('readiness').where({ entity_id: entityId, period: month })) as {
    system_id: string
    check_code: string
    state: 'passes' | 'fails' | 'open'
    facts: { fact: string }
  }[]
  const findings = (await trx('finding').where({ entity_id: entityId })) as {
    system_id: string
    code: Code
    facts: Record<string, string>
  }[]
  const streams = await streamsOf(books, month, today)
  const leftOut = await leftOutOf(books, month, systems)
  const scopes = new Map(
    (
      (await trx('system_scope').where({ entity_id: entityId }).select('system_id', 'scope')) as {
        system_id: string
        scope: Scope
      }[]
    ).map((row) => [row.system_id, row.scope]),
  )
  const off = (await trx('system')
    .where({ entity_id: entityId })
    .whereNotNull('disconnected_at')
    .orderBy('name')
    .select('system_id', 'name', 'role', 'disconnected_at')) as {
    system_id: string
    name: string
    role: SystemRow['role']
    disconnected_at: Date
  }[]
  return {
    currency,
    disconnected: off.map((row) => ({
      id: row.system_id,
      name: row.name,
      role: row.role,
      at: row.disconnected_at.toISOString(),
    })),
    systems: await inOrder(systems, async (system) => {
      const { good: pull } = await lastPulls(books, system.system_id)
      const [stale] = await notFresh(books, [system])
      const { changes, more } = pull ? await changesOf(books, pull.pull_id) : { changes: [], more: 0 }
      const own = results.filter((r) => r.system_id === system.system_id)
      const applicable = CHECKS.filter(
        (check) => own.length === 0 || own.some((r) => r.check_code === check.code),
      )
      return {
        id: system.system_id,
        role: system.role,
        name: system.name,
        product: system.about.product,
        company: system.about.company.name,
        webAddress: system.about.webAddress,
        pulledAt: pull?.finished_at.toISOString() ?? null,
        notFresh: stale ?? null,
        lastPull: pull?.counts ?? [],
        changes,
        moreChanges: more,
        checks:
          own.length === 0
            ? []
            : applicable.map((check) => {
                const result = own.find((r) => r.check_code === check.code)
                return {
                  ...check,
                  state: result?.state ?? ('not-checked' as const),
                  fact: result?.facts.fact ?? '',
                }
              }),
        byFiles: isFiles(system),
        goesOut: system.goesOut,
        schedule: scopes.get(system.system_id)?.schedule ?? null,
        leftOut: leftOut.get(system.system_id) ?? { documents: 0, tax: null, total: null },
        streams: streams
          .filter((stream) => stream.systemId === system.system_id)
          .map(({ name, documents, silence }) => ({
            name,
            documents,
            silence: silence && { since: silence.since, days: silence.days, ...silence.usual },
          })),
        findings: findings.filter((f) => f.system_id === system.system_id).map((f) => say(f.code, f.facts)),
      }
    }),
  }
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
