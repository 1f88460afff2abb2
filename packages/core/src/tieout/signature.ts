import { grainOf, membersOf, type Grain, type VoiceFacts } from './facts.ts'

/** Raised whenever the text changes its meaning, so that stored signatures of another version never compare equal. */
export const SIGNATURE_VERSION = 2

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
  const nets = new Map<string, bigint>()
  for (const { currency, period, net } of voice.nets) {
    nets.set(`${currency}|${period}`, (nets.get(`${currency}|${period}`) ?? 0n) + net)
  }
  const netLines = [...nets]
    .filter(([, net]) => net !== 0n)
    .map(([key, net]) => `net|${key}=${net}`)
    .sort()
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
  }
}

export function agree(a: VoiceFacts, b: VoiceFacts): boolean {
  // What differs in all cannot agree part by part, at any grain.
  if (taxIn(a) !== taxIn(b)) return false
  const grain = commonGrain(a, b)
  return signatureOf(a, grain) === signatureOf(b, grain)
}

function taxIn({ facts }: VoiceFacts): bigint {
  return facts.reduce((total, { tax }) => total + tax, 0n)
}
