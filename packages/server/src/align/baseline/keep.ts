import type { AgreedChange, AgreedKind, AgreedPreview, BaselineImport } from '@axion/contract'
import { lastDayOf } from '@axion/core'
import { audit } from '../../audit/audit.ts'
import { recordedAt } from '../../baseline/import.ts'
import { loadBaseline } from '../../baseline/load.ts'
import type { Books } from '../../database/connection.ts'
import { digestOf } from '../../database/json.ts'
import { stampsOf } from '../../database/stamped.ts'
import { Problem } from '../../faults/problem.ts'
import { compareAfter } from '../../post/compareAfter.ts'
import { noteSetUp } from '../../setUp/clock.ts'
import { loadHeld } from '../../setUp/held.ts'
import { recordBatch } from '../../setUp/steps.ts'
import { fits } from '../kinds/accounts.ts'
import { purposesOf } from '../purposes.ts'
import { fieldsBetween, workedOut, write, type Worked } from './change.ts'
import { effectOf } from './effect.ts'

/** A first month that is before every booking. */
const EVER = '0001-01'

/** A change of one object of a kind, in the month that is worked. */
export interface Asked {
  readonly month: string
  readonly kind: AgreedKind
  readonly change: AgreedChange
}

/** What a change of one object would do, before it is done. @throws what `workedOut` and `requireFit` throw, AXION_NOTHING_TO_DO, AXION_BASELINE_OVERLAP */
export async function previewChange(books: Books, asked: Asked): Promise<AgreedPreview> {
  const worked = await checked(books, asked)
  const effect = await effectOf(books, async (tried) => write(tried, worked, await recordedAt(tried)))
  return {
    what: worked.what,
    since: worked.since,
    fields: fieldsBetween(worked),
    ...effect,
    revision: await revisionOf(books, asked),
  }
}

/**
 * Makes a change as it was previewed, in one act that is taken back in one.
 * @throws AXION_STALE where something else of the baseline was changed since, and what `previewChange` throws
 */
export async function keepChange(
  books: Books,
  { person, atOnce }: { readonly person: string; readonly atOnce: number },
  { revision, ...asked }: Asked & { readonly revision: string },
): Promise<string> {
  const worked = await checked(books, asked)
  if ((await revisionOf(books, asked)) !== revision)
    throw new Problem('AXION_STALE', { what: `The baseline, since the ${worked.what} was looked at,` })
  const at = await recordedAt(books)
  await write(books, worked, at)
  const said = (of: Worked['before']): object | null =>
    of && {
      ...of.cells,
      ...(of.from === null ? {} : { from: of.from }),
      ...(of.to === null ? {} : { to: of.to }),
    }
  await audit(books.trx, 'changed-agreed', worked.what, {
    before: said(worked.before),
    after: said(worked.after),
  })
  await recordBatch(books, { person, action: 'agreed-upon', says: worked.what }, [{ did: 'imported', at }])
  await noteSetUp(books)
  if (asked.kind === 'postingRules') await compareAfter(books, { from: EVER, startedBy: person }, atOnce)
  return worked.id
}

/** As it was looked at: the change, on top of the baseline as it stands. */
async function revisionOf(books: Books, { kind, change }: Asked): Promise<string> {
  return digestOf([kind, change, (await stampsOf(books)).agreed])
}

async function checked(books: Books, { month, kind, change }: Asked): Promise<Worked> {
  const worked = await workedOut(books, kind, change)
  if (fieldsBetween(worked).length === 0)
    throw new Problem('AXION_NOTHING_TO_DO', { what: `change: the ${worked.what} is so already` })
  if (kind === 'postingRules' && worked.after) await requireFit(books, month, worked)
  return worked
}

/** An amount goes to an account that the ledger has, of a type that it may go to (E2). @throws AXION_ACCOUNT_NOT_IN_LEDGER, AXION_ACCOUNT_UNFIT */
async function requireFit(books: Books, month: string, { after, what }: Worked): Promise<void> {
  const rule = after?.stated as BaselineImport['postingRules'][number]
  const ledger = (await loadHeld(books, ['accounts'])).find(({ row }) => row.role === 'ledger')
  // Before a ledger is connected nobody knows what accounts there are: the grid says so.
  if (!ledger) return
  const account = ledger.accounts.find(({ value }) => value.number === rule.account)?.value
  if (!account) throw new Problem('AXION_ACCOUNT_NOT_IN_LEDGER', { account: rule.account })
  const { fits: isFit, wanted } = fits(rule, account, {
    index: await loadBaseline(books),
    date: lastDayOf(month),
    purposes: await purposesOf(books),
  })
  if (!isFit)
    throw new Problem('AXION_ACCOUNT_UNFIT', {
      account: `${account.number} ${account.name}`,
      name: `The ${what}`,
      type: account.type.replaceAll('-', ' '),
      wanted,
    })
}
