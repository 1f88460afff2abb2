import { findingOf, type PaymentMethod } from '@axion/contract'
import { covers } from '@axion/core'
import type { Held, HeldSystem } from '../../setUp/held.ts'
import type { Found, KindOfSetUp } from './kind.ts'

/** Payment methods beside those of tills, shops, processors and purchasing. */
export const METHODS: KindOfSetUp = {
  kind: 'methods',
  link: 'payment-method',
  resource: 'payment-methods',
  rows: ({ index, date }) =>
    index.baseline.paymentMethods.map(({ id, name, kind }) => ({
      id,
      name,
      group: id,
      detail: plain(kind),
      total:
        index.baseline.postingRules.find(
          (rule) => rule.kind === 'clearing' && rule.only?.id === id && covers(rule.valid, date),
        )?.account ?? '',
    })),
  needs: () => false,
  matters: (held, objectId) => methodOf(held, objectId)?.value.active === true,
  says: (held, objectId) => shown(methodOf(held, objectId)?.value),
  about: () => [],
  compare: ({ index }, row, objectId, { held }) => {
    const ours = index.baseline.paymentMethods.find((method) => method.id === row.id)
    const theirs = methodOf(held, objectId)?.value
    if (!ours || !theirs) return { agrees: false, words: '', fields: [], found: [], remedies: [] }
    const facts = {
      name: row.name,
      system: held.row.name,
      ours: plain(ours.kind),
      theirs: plain(theirs.kind),
    }
    const found: Found[] = [
      ...(theirs.kind === ours.kind ? [] : [findingOf('AXION_METHOD_KIND', facts)]),
      ...(theirs.active ? [] : [findingOf('AXION_METHOD_OFF', facts)]),
    ]
    return {
      agrees: found.length === 0,
      found,
      words:
        theirs.kind === ours.kind
          ? theirs.active
            ? shown(theirs)
            : 'switched off'
          : `${plain(theirs.kind)}, not ${plain(ours.kind)}`,
      remedies:
        found.length === 0
          ? []
          : [
              ...(held.row.about.takes.includes('payment-methods')
                ? [{ kind: 'send', align: 'methods', systemId: held.row.system_id, objectId } as const]
                : []),
              ...(theirs.kind === ours.kind
                ? []
                : [{ kind: 'adopt', align: 'methods', systemId: held.row.system_id, objectId } as const]),
            ],
      fields: [
        {
          field: 'Kind',
          ours: plain(ours.kind),
          theirs: plain(theirs.kind),
          agrees: theirs.kind === ours.kind,
        },
        { field: 'In use', ours: 'yes', theirs: theirs.active ? 'yes' : 'no', agrees: theirs.active },
        ...(theirs.maskedNumber === null
          ? []
          : [{ field: 'Number', ours: '', theirs: theirs.maskedNumber, agrees: true }]),
      ],
    }
  },
}

function methodOf(held: HeldSystem, objectId: string): Held<PaymentMethod> | undefined {
  return held.methods.find((method) => method.id === objectId)
}

function plain(kind: string): string {
  return kind.replaceAll('-', ' ')
}

function shown(method: PaymentMethod | undefined): string {
  return method ? [plain(method.kind), method.maskedNumber].filter(Boolean).join(' ') : ''
}
