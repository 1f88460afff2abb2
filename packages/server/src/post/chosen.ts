import { PostFilter, type BookingState } from '@axion/contract'
import { z } from 'zod'
import type { Books } from '../database/connection.ts'
import { LEFT_OUT, states, VOIDED_THERE } from '../documents/states.ts'
import type { StoredDocument } from '../documents/units.ts'
import { documentsWithBookings } from '../documents/withBookings.ts'
import { foundIn } from '../lists/list.ts'
import { postList } from './list.ts'

const SENDABLE = ['rehearsed', 'failed', 'changed', 'withdrawn'] as const satisfies readonly BookingState[]
const UNDER_WAY: readonly BookingState[] = ['waiting', 'sending']
const BOOKED: BookingState = 'booked'

/** Which documents are meant: some, those in a state, a telling handful, those of a cause, or all that a filter finds. */
export const ChosenForPosting = z.union([
  z.object({ units: z.array(z.string().max(300)).min(1).max(10_000) }),
  z.object({ states: z.array(z.enum(SENDABLE)).min(1) }),
  z.object({ handful: z.int().min(1).max(50) }),
  z.object({ cause: z.string().max(400) }),
  z.object({ filter: PostFilter }),
])
export type ChosenForPosting = z.infer<typeof ChosenForPosting>

/** The chosen documents that can be posted: what is booked and proved, a draft, or left out, is none. */
export async function chosenIn(
  books: Books,
  month: string,
  chosen: ChosenForPosting,
): Promise<(StoredDocument & { readonly state: BookingState | null })[]> {
  const { trx } = books
  const units = async (): Promise<string[] | null> => {
    if ('units' in chosen) return chosen.units
    if ('cause' in chosen) return heldBackBy(books, month, chosen.cause)
    if ('handful' in chosen) return handful(books, month, chosen.handful)
    return 'filter' in chosen ? foundIn(books, postList(month, chosen.filter), chosen.filter) : null
  }
  const wanted = await units()
  return (await documentsOf(books, month)
    .where(
      (q) =>
        void (wanted === null
          ? q
              .whereIn('b.state', 'states' in chosen ? chosen.states : [])
              // What the ledger voided is booked anew where just it is asked for.
              .whereRaw(`not ${VOIDED_THERE}`)
          : q.whereRaw(`d.named = any(?)`, [wanted])),
    )
    .where(
      (q) =>
        void q
          .whereIn('b.state', [...SENDABLE])
          .orWhereNull('b.state')
          .orWhere(
            (again) =>
              void again
                .where('b.state', BOOKED)
                .whereExists(
                  trx('tie_unit as u').whereRaw(
                    'u.entity_id = b.entity_id and u.system_id = b.system_id and u.document_id = b.document_id and not u.proved and u.settled is null',
                  ),
                ),
          )
          .orWhere(
            (left) =>
              void left
                .whereIn('b.state', [...UNDER_WAY])
                .whereNotExists(
                  trx('run as r')
                    .whereRaw('r.entity_id = b.entity_id and r.run_id = b.run_id')
                    .whereIn('r.state', ['queued', 'running']),
                ),
          ),
    )
    .whereNotIn('d.status', ['draft', 'void'])
    .whereRaw(`not ${LEFT_OUT}`)
    .select('d.*', 'b.state')) as (StoredDocument & { state: BookingState | null })[]
}

/** What one cause of the tie-out holds back: mended elsewhere, it can be booked again. */
async function heldBackBy({ trx, entityId }: Books, month: string, cause: string): Promise<string[]> {
  return (await trx('tie_unit')
    .where({ entity_id: entityId, period: month, cause, proved: false })
    .pluck('named')) as string[]
}

/** A few rehearsed documents without a remark that tell most: one of every rate first, then more of each. */
async function handful({ trx, entityId }: Books, month: string, size: number): Promise<string[]> {
  const { rows } = (await trx.raw(
    `select named from (
       select u.named, row_number() over (partition by u.combined_rates order by u.document_date, u.number) as turn from tie_unit u
       join booking b on b.entity_id = u.entity_id and b.system_id = u.system_id and b.document_id = u.document_id and b.kind = u.kind
       where u.entity_id = ? and u.period = ? and b.state in ${states('rehearsed')} and b.findings = '[]') x
     order by turn, named limit ?`,
    [entityId, month, size],
  )) as { rows: { named: string }[] }
  return rows.map((row) => row.named)
}

function documentsOf({ trx, entityId }: Books, month: string) {
  return documentsWithBookings(trx)
    .where({ 'd.entity_id': entityId, 'd.period': month })
    .whereRaw(`(d.status <> 'void' or b.state is not null)`)
    .orderBy(['d.document_date', 'd.number'])
}
