import type { VoiceFacts } from './facts.ts'
import { FINEST, grainOf, membersOf, netMembersOf, type Grain } from './members.ts'

/** Raised whenever the text changes its meaning, so that stored signatures of another version never compare equal. */
export const SIGNATURE_VERSION = 3

/**
 * A voice's facts as plain text: one line a member and one a net total, in a fixed order.
 * Two voices agree at a grain exactly when their texts are equal; plain text cannot collide.
 * Bases and base-currency amounts are in it only at a grain where both voices hold them: what is not held is not compared.
 */
export function signatureOf(voice: VoiceFacts, grain: Grain): string {
  const members = membersOf(voice, grain).map(
    (m) =>
      `${m.agency ?? ''}|${m.account ?? ''}|${m.currency}|${m.period}=${m.tax}${m.base === null ? '' : `/${m.base}`}${m.inBase === null ? '' : `~${m.inBase.tax} ${m.inBase.currency}`}`,
  )
  const netLines = netMembersOf(voice, grain).map(
    ({ account, currency, period, net }) => `net|${account ?? ''}|${currency}|${period}=${net}`,
  )
  return [`v${SIGNATURE_VERSION}`, ...members, ...netLines].join('\n')
}

/** The finest grain that two voices both have. */
export function commonGrain(a: VoiceFacts, b: VoiceFacts): Grain {
  const left = grainOf(a)
  const right = grainOf(b)
  return {
    agency: left.agency && right.agency,
    account: left.account && right.account,
    bases: left.bases && right.bases,
    inBase: left.inBase && right.inBase,
    nets: coarser(left.nets, right.nets),
  }
}

function coarser(a: Grain['nets'], b: Grain['nets']): Grain['nets'] {
  return [a, b].includes('unknown') ? 'unknown' : [a, b].includes('total') ? 'total' : 'account'
}

/** @param finest what is compared at most: diagnosis, say, asks of tax and of the net total, whatever accounts revenue stands in */
export function agree(a: VoiceFacts, b: VoiceFacts, finest: Grain = FINEST): boolean {
  // What differs in all cannot agree part by part, at any grain.
  if (taxIn(a) !== taxIn(b)) return false
  const common = commonGrain(a, b)
  const grain = { ...common, nets: coarser(common.nets, finest.nets) }
  return signatureOf(a, grain) === signatureOf(b, grain)
}

function taxIn({ facts }: VoiceFacts): bigint {
  return facts.reduce((total, { tax }) => total + tax, 0n)
}
