import type { PracticeView } from '@axion/contract'
import { count, isNil } from '../figures/format.ts'

/** A legal entity of the board, with the path of its month. */
export type EntityRow = PracticeView['entities'][number]

/** Tax, untaxed sales, or documents without either. */
export const isOpen = ({ path: { tieout } }: EntityRow): boolean =>
  !isNil(tieout.unproved) || !isNil(tieout.unprovedNet) || tieout.documents > 0

/** What to do next for an entity: the first stage, in the order of the work, where something is open. */
export function next(row: EntityRow): {
  readonly word: string
  readonly stage: string
  readonly params?: Record<string, string>
} {
  const { connect, align, post } = row.path
  // Nothing waits in it: what is open stands in the month before.
  if (connect.empty && row.before.state === 'open')
    return { word: 'See the month before', stage: 'close', params: { month: row.before.month } }
  if (connect.empty) return { word: 'See the months', stage: 'close' }
  if (!connect.pulled) return { word: 'Pull the systems', stage: 'connect' }
  if (connect.stale > 0) return { word: `See ${count(connect.stale, 'system')} not read`, stage: 'connect' }
  if (connect.limits.older !== null) return { word: 'See the change to be proved', stage: 'tie-out' }
  if (connect.failing > 0) return { word: `Mend ${count(connect.failing, 'check')}`, stage: 'connect' }
  // Nothing is posted into a month whose systems nobody has checked.
  if (post.waiting > 0 && connect.ready < connect.systems)
    return { word: 'Check the systems', stage: 'connect' }
  if (post.failed > 0) return { word: `See ${post.failed} failed`, stage: 'post' }
  if (align.findings > 0 && post.waiting > 0)
    return { word: `Look at ${count(align.findings, 'finding')}`, stage: 'align', params: { kind: 'rates' } }
  if (post.waiting > 0) return { word: `Post ${count(post.waiting, 'document')}`, stage: 'post' }
  if (isOpen(row)) return { word: `Mend ${count(row.causes, 'cause')}`, stage: 'tie-out' }
  const { apart } = row.path.tieout
  if (apart > 0) return { word: `See ${apart} apart`, stage: 'tie-out' }
  return { word: post.notYet > 0 ? `See ${post.notYet} not posted yet` : 'Proved', stage: 'close' }
}
