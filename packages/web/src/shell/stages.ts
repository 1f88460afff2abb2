import type { PathView, Selector } from '@axion/contract'
import { count, isNil } from '../figures/format.ts'

/** A stage of the month as the path across the top has it: the money that waits there, and a few words. */
export interface Stage {
  readonly name: string
  readonly params: Readonly<Record<string, string>>
  readonly label: string
  readonly money: string | null
  /** What the money is the sum of, for whoever opens it. */
  readonly of: Selector | null
  readonly words: string
  readonly bad: boolean
}

const WAITING = 'not-composed,blocked,rehearsed,waiting,sending,failed,in-doubt,changed,withdrawn'

/** The stages in the order of the work; without words while nothing is known of the month yet. */
export function stagesOf(path: PathView | null): Stage[] {
  return [
    {
      name: 'connect',
      params: {},
      label: 'Connect',
      money: null,
      of: null,
      words: path ? connectWords(path) : '',
      bad: (path?.connect.failing ?? 0) > 0,
    },
    {
      name: 'align',
      params: { kind: 'rates' },
      label: 'Align',
      money: path?.align.stake ?? null,
      of: { of: 'stake' },
      words: path ? alignWords(path) : '',
      bad: path !== null && path.align.findings > 0,
    },
    {
      name: 'post',
      params: {},
      label: 'Post',
      money: path?.post.tax ?? null,
      of: { of: 'tax', voice: 'stated', state: WAITING },
      words: path ? postWords(path) : '',
      bad: (path?.post.failed ?? 0) > 0,
    },
    {
      name: 'tie-out',
      params: {},
      label: 'Tie out',
      money: path?.tieout.unproved ?? null,
      of: { of: 'unproved' },
      words: path ? tieOutWords(path) : '',
      bad: path !== null && (!isNil(path.tieout.unproved) || path.tieout.documents > 0 || isUncertain(path)),
    },
  ]
}

/** A system that could not be read, or a change that is still to be proved: what stands here may not be so any more. */
function isUncertain({ connect }: PathView): boolean {
  return connect.stale > 0 || connect.limits.older !== null
}

function connectWords({ connect }: PathView): string {
  return connect.failing > 0
    ? count(connect.failing, 'check stops posting', 'checks stop posting')
    : `${connect.ready} of ${connect.systems} ready`
}

function alignWords({ align, connect }: PathView): string {
  if (!isNil(align.stake)) return 'at stake'
  return connect.pulled || connect.empty ? count(align.findings, 'finding') : 'not pulled'
}

function postWords({ post, connect }: PathView): string {
  if (post.failed > 0) return `in ${post.waiting}, ${post.failed} failed`
  if (post.waiting > 0) return 'not posted'
  if (!connect.pulled) return unread(connect)
  if (connect.limits.failed.length + connect.limits.unread > 0) return 'all that was read'
  return post.notYet > 0 ? `${post.notYet} not posted yet` : 'all posted'
}

/** Why nothing is known of a month: nobody pulled it, or there is nothing in it. */
export function unread({ empty }: PathView['connect']): string {
  return empty ? 'no documents' : 'not pulled'
}

function tieOutWords(path: PathView): string {
  const { tieout, connect, post } = path
  if (!isNil(tieout.unproved)) return 'not proved'
  if (!connect.pulled) return unread(connect)
  if (tieout.documents > 0) return `${count(tieout.documents, 'document')} open`
  if (isUncertain(path)) return 'not known'
  if (tieout.apart > 0) return `${tieout.apart} stand apart`
  return post.notYet > 0 ? 'proved, of what is posted' : 'all proved'
}
