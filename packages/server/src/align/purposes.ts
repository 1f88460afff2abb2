import type { PostingKind } from '@axion/core'
import { audit } from '../audit/audit.ts'
import type { Books } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'
import { noteSetUp } from '../setUp/clock.ts'
import { loadHeld } from '../setUp/held.ts'

/** For which kinds of amount accounts are kept, by number; an account that is not among them is for whatever its type fits. */
export type Purposes = ReadonlyMap<string, readonly PostingKind[]>

export async function purposesOf({ trx, entityId }: Books): Promise<Purposes> {
  const rows = (await trx('account_purpose').where({ entity_id: entityId }).select('account', 'kinds')) as {
    account: string
    kinds: PostingKind[]
  }[]
  return new Map(rows.map((row) => [row.account, row.kinds]))
}

/** Keeps an account for kinds of amount alone; for whatever its type fits where there are none. What is posted there by now stays. @throws AXION_ACCOUNT_NOT_IN_LEDGER */
export async function keepAccountFor(
  books: Books,
  person: string,
  account: string,
  kinds: readonly PostingKind[],
): Promise<void> {
  const { trx, entityId } = books
  const ledger = (await loadHeld(books, ['accounts'])).find(({ row }) => row.role === 'ledger')
  if (!ledger?.accounts.some(({ value }) => value.number === account))
    throw new Problem('AXION_ACCOUNT_NOT_IN_LEDGER', { account })
  const before = (await purposesOf(books)).get(account) ?? []
  await trx('account_purpose').where({ entity_id: entityId, account }).delete()
  if (kinds.length > 0)
    await trx('account_purpose').insert({
      entity_id: entityId,
      account,
      kinds: [...new Set(kinds)],
      changed_by: person,
    })
  await audit(trx, 'kept-purpose', ledger.accountName(account), {
    before: { for: before.join(', ') },
    after: { for: kinds.join(', ') },
  })
  await noteSetUp(books)
}
