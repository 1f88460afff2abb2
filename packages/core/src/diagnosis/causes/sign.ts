import type { VoiceFacts } from '../../tieout/facts.ts'
import { voicing, type Cause } from './cause.ts'

/** The opposite sign. */
export interface OppositeSign {
  readonly kind: 'sign'
}

export const oppositeSign: Cause<OppositeSign, object> = {
  kind: 'sign',
  rank: () => 7,
  key: () => [],
  candidates: () => [{ kind: 'sign' }],
  apply: (_, on) => voicing(on, mirrored),
  facts: () => ({}),
  says: (f) => `${f.system} has it with the opposite sign: a credit as a sale, or a sale as a credit.`,
}

function mirrored(voice: VoiceFacts): VoiceFacts {
  return {
    facts: voice.facts.map((f) => ({
      ...f,
      tax: -f.tax,
      base: f.base === null ? null : -f.base,
      inBase: f.inBase && { ...f.inBase, tax: -f.inBase.tax },
    })),
    nets: voice.nets.map((n) => ({ ...n, net: -n.net })),
  }
}
