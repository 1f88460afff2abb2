import type { Columns } from '../database/row.ts'
import type { ActName, AlignRemedy, RemedyPreview, SetUpRemedy } from '@axion/contract'
import {
  covers,
  formatAmount,
  indexBaseline,
  sum,
  type BaselineIndex,
  type Explanation,
  type PostingRule,
  type PostingScope,
} from '@axion/core'
import { audit } from '../audit/audit.ts'
import { keepSeen, keyOf } from '../baseline/authority.ts'
import { loadBaseline } from '../baseline/load.ts'
import { introduce, revise } from '../baseline/revise.ts'
import { postingRuleId } from '../baseline/tables/postings.ts'
import { unseal } from '../bridges/secrets.ts'
import { changing, inEntity, inOrder, type Books, type Transaction } from '../database/connection.ts'
import { canonical } from '../database/json.ts'
import { Problem } from '../faults/problem.ts'
import { compareAfter } from '../post/compareAfter.ts'
import { differingBookings } from '../post/differing.ts'
import type { Reproduced } from '../proof/weigh.ts'
import type { Services } from '../services/services.ts'
import { noteSetUp } from '../setUp/clock.ts'
import { type Step, recordBatch } from '../setUp/steps.ts'
import { basisOf } from './build.ts'
import type { GridBasis } from './kinds/index.ts'
import { putLink } from './links.ts'
import type { Plan } from './plans/plan.ts'
import { sendingOf } from './plans/send.ts'
import { takingOf } from './plans/take.ts'

/** The change of a set-up that undoes an explanation, where it is one that a system's snapshot gave rise to. */
export function setUpRemedyOf(explanation: Explanation): SetUpRemedy | null {
  const [assumption] = explanation
  if (explanation.length !== 1 || !assumption) return null
  if (assumption.kind === 'component-percent')
    return {
      kind: 'component-percent',
      systemId: assumption.systemId,
      objectId: assumption.systemRateId,
      jurisdictionId: assumption.jurisdictionId,
    }
  return assumption.kind === 'liability-account'
    ? { kind: 'liability-account', systemId: assumption.systemId, objectId: assumption.systemAgencyId }
    : null
}

export function sameRemedy(a: SetUpRemedy, b: SetUpRemedy): boolean {
  return canonical(a) === canonical(b)
}

/** What a remedy would change, in a system or in the baseline. */
export function planOf(basis: GridBasis, month: string, remedy: AlignRemedy): Plan {
  return isSetUp(remedy) ? sendingOf(basis, remedy) : takingOf(basis, month, remedy)
}

/** What would be changed, and which bookings would be made again for it. Nothing leaves. */
export async function previewAlignment(
  books: Books,
  month: string,
  remedy: AlignRemedy,
): Promise<RemedyPreview> {
  const plan = planOf(await basisOf(books, month), month, remedy)
  const units = isSetUp(remedy) ? await unitsOf(books, month, remedy) : []
  const differing =
    remedy.kind === 'post-to'
      ? await differingBookings(books, { from: month }, rulesUnder(await loadBaseline(books), plan, month))
      : []
  return {
    remedy,
    system: plan.system.row.name,
    object: plan.object,
    revision: plan.revision,
    changes: plan.changes,
    journal: [],
    currency: books.currency,
    documents: units.length + differing.length,
    numbers: differing.slice(0, NAMED).map((one) => one.number),
    unproved: formatAmount(sum(units.map((u) => BigInt(u.unproved))), books.currency),
  }
}

const NAMED = 12

/** The baseline as it would stand under a plan that changes one of its posting rules. */
function rulesUnder(index: BaselineIndex, { act: what }: Plan, month: string): BaselineIndex {
  const { baseline } = index
  const [revision] = what.to === 'baseline' ? what.revisions : []
  const wanted = revision?.values as
    | {
        kind: PostingRule['kind']
        agency: string | null
        only_by: PostingScope | null
        only_id: string | null
        account: string
      }
    | undefined
  if (!revision || !wanted) return index
  const first = `${month}-01`
  const rule: PostingRule = {
    id: 'under',
    kind: wanted.kind,
    agencyId: wanted.agency,
    only: wanted.only_by === null ? null : { by: wanted.only_by, id: wanted.only_id ?? '' },
    account: wanted.account,
    valid: { from: first, to: null },
  }
  const isSame = (other: PostingRule): boolean =>
    postingRuleId(other.kind, other.agencyId, other.only) === revision.objectId && covers(other.valid, first)
  return indexBaseline({
    ...baseline,
    postingRules: [rule, ...baseline.postingRules.filter((other) => !isSame(other))],
  })
}

export function isSetUp(remedy: AlignRemedy): remedy is SetUpRemedy {
  return remedy.kind !== 'adopt' && remedy.kind !== 'take-in' && remedy.kind !== 'post-to'
}

/**
 * Carries out one remedy as it was previewed, records before and after, and keeps what takes it back.
 * @throws AXION_STALE where what was previewed is not what would be done now
 */
export async function carryOut(
  services: Services,
  entityId: string,
  {
    month,
    remedy,
    revision,
    person,
  }: {
    readonly month: string
    readonly remedy: AlignRemedy
    readonly revision: string
    readonly person: string
  },
): Promise<void> {
  const { database } = services
  const plan = await inEntity(database, entityId, async (books) =>
    planOf(await basisOf(books, month), month, remedy),
  )
  if (plan.revision !== revision)
    throw new Problem('AXION_STALE', { what: `${plan.object} in ${plan.system.row.name}` })
  const steps = await act(services, entityId, { plan, remedy, person })
  await changing(database, entityId, (books) =>
    recordBatch(
      books,
      { person, action: remedy.kind, says: `${plan.object}, ${plan.system.row.name}` },
      steps,
    ),
  )
}

/** Does what a plan says: what goes to a system in a call of its own, what goes into the baseline in one transaction. */
export async function act(
  services: Services,
  entityId: string,
  { plan, remedy, person }: { readonly plan: Plan; readonly remedy: AlignRemedy; readonly person: string },
): Promise<Step[]> {
  const { database } = services
  const {
    act: what,
    system: { row },
  } = plan
  if (what.to === 'baseline')
    return changing(database, entityId, (books) => changeBaseline(books, plan, remedy.kind, person))
  const bridge = services.bridges.open(
    row.name,
    row.address,
    unseal(row.token_sealed, services.settings.AXION_SECRET_KEY),
  )
  if (what.to === 'object') {
    const changed = await bridge.change(what.resource, what.objectId, what.fields, what.revision)
    return changing(database, entityId, async ({ trx }) => {
      await auditPlan(trx, 'sent-to-system', plan)
      return [
        {
          did: 'sent',
          systemId: row.system_id,
          resource: what.resource,
          objectId: what.objectId,
          object: plan.object,
          before: what.before,
          revision: changed.revision,
        },
      ]
    })
  }
  const made = await bridge.create(what.resource, what.value, what.key, plan.object)
  return changing(database, entityId, async (books) => {
    await auditPlan(books.trx, 'created-in-system', plan)
    if (what.link) await putLink(books, person, { ...what.link, objectId: made.id })
    return [{ did: 'created', systemId: row.system_id, object: plan.object }]
  })
}

/** A plan that changes the baseline alone, within a transaction of the caller's. */
export async function changeBaseline(
  books: Books,
  plan: Plan,
  action: string,
  person: string,
): Promise<Step[]> {
  const { act: what } = plan
  if (what.to !== 'baseline') return []
  const steps = await inOrder(what.revisions, async (revision): Promise<Step> => ({
    did: 'revised',
    ...(await (what.introduces ? introduce : revise)(books, revision)),
  }))
  const link = what.link && (await putLink(books, person, what.link))
  await auditPlan(
    books.trx,
    action === 'adopt' ? 'adopted' : action === 'post-to' ? 'posting-rule' : 'taken-in',
    plan,
  )
  await noteSetUp(books)
  const seen = await takenFrom(books, plan, person)
  if (action === 'post-to')
    await compareAfter(books, { from: what.revisions[0]?.from?.slice(0, 7) ?? '', startedBy: person })
  return [...steps, ...seen, ...(link ? [link] : [])]
}

/** A percent that is taken over from a system stands on that system's word. */
async function takenFrom(books: Books, { act: what, system }: Plan, person: string): Promise<Step[]> {
  const percents =
    what.to === 'baseline' ? what.revisions.filter(({ table }) => table === 'rate_version') : []
  if (percents.length === 0) return []
  const systems = new Set([system.row.system_id])
  const seen = new Map(percents.map(({ objectId }) => [keyOf('rate', objectId), systems]))
  const things = await keepSeen(books, (await loadBaseline(books)).baseline, { seen, person })
  return [{ did: 'seen', things }]
}

async function auditPlan(
  trx: Transaction,
  action: ActName,
  { system, object, changes }: Plan,
): Promise<void> {
  const side = (of: 'from' | 'to'): object =>
    Object.fromEntries(changes.map((change) => [change.field, change[of]]))
  await audit(trx, action, `${system.row.name}: ${object}`, { before: side('from'), after: side('to') })
}

interface RemediedUnit extends Columns<'unit', 'document_id' | 'system_id' | 'unproved' | 'assumptions'> {
  readonly document_id: string
  readonly assumptions: readonly Reproduced[]
}

/** The booked documents of the month that a remedy's cause explains. */
export async function unitsOf(
  { trx, entityId }: Books,
  month: string,
  remedy: SetUpRemedy,
): Promise<RemediedUnit[]> {
  if (remedy.kind === 'send' || remedy.kind === 'create') return []
  const rows = (await trx('tie_unit')
    .where({ entity_id: entityId, period: month, proved: false })
    .whereNull('settled')
    .whereNot('bookings', 0)
    .whereNotNull('document_id')
    .select('document_id', 'system_id', 'unproved', 'assumptions')) as RemediedUnit[]
  return rows.filter((row) =>
    row.assumptions.some(({ assumptions }) =>
      assumptions.some((one) => {
        const own = setUpRemedyOf([one])
        return own !== null && sameRemedy(own, remedy)
      }),
    ),
  )
}
