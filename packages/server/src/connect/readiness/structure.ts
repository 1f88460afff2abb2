import { POSTED_ONE_TO_ONE } from '@axion/core'
import { pass, type Rule } from './rule.ts'

/** What a sale out of stock moves. */
export const STOCK_KINDS = ['cost-of-sales', 'inventory'] as const

/** Whether there is a place for all that is booked. */
export const STRUCTURE_CHECKS: readonly Rule[] = [
  {
    code: 'accounts-there',
    group: 'Structure',
    roles: ['ledger'],
    blocks: true,
    question: 'Does it have every account of the posting rules?',
    why: 'A posting rule to an account that is not there books nothing.',
    mend: 'Create the account there, or change the posting rule.',
    test: ({ baseline, accountNumbers, pulled }) => {
      if (!pulled) return ['open', 'Its accounts have not been pulled yet']
      const { postingRules, lineRules } = baseline.baseline
      // Other kinds of amount take no booking yet: what they lack is a finding of Align.
      const booked = postingRules.filter((r) => POSTED_ONE_TO_ONE.includes(r.kind))
      const wanted = [...booked.map((r) => r.account), ...lineRules.flatMap((r) => r.then.account ?? [])]
      if (wanted.length === 0) return ['open', 'No posting rule is agreed yet']
      const lacking = [...new Set(wanted)].filter((a) => !accountNumbers.has(a))
      return pass({
        holds: lacking.length === 0,
        fact:
          lacking.length === 0
            ? `All ${booked.length} posting rules find theirs`
            : `It lacks ${lacking.join(', ')}`,
      })
    },
  },
  {
    code: 'takes-bookings',
    group: 'Structure',
    roles: ['ledger'],
    blocks: true,
    question: 'Does its edition take bookings from others?',
    why: 'An edition that only hands out its data can be read and never posted to.',
    mend: 'Change to an edition that takes bookings, connect the ledger that does, or have its scope send to it.',
    test: ({ about, system }) =>
      pass({
        holds: about.takes.includes('bookings'),
        fact: !system.goesOut
          ? 'Its scope sends nothing to it'
          : about.takes.includes('bookings')
            ? `It takes ${about.takes.map((one) => one.replaceAll('-', ' ')).join(', ')}`
            : 'It takes none',
      }),
  },
  {
    code: 'account-numbers',
    group: 'Structure',
    roles: ['ledger'],
    blocks: false,
    question: 'Do its accounts have numbers?',
    why: 'Posting rules name accounts by number: without them a renamed account is another one.',
    mend: 'Switch account numbers on there.',
    test: ({ settings }) =>
      pass({
        holds: settings.usesAccountNumbers,
        fact: settings.usesAccountNumbers ? 'They have' : 'They go by name alone',
      }),
  },
  {
    code: 'dimensions-there',
    group: 'Structure',
    roles: ['ledger'],
    blocks: false,
    question: 'Does it have every agreed dimension value?',
    why: 'A booking that carries a value which is not there, or switched off, is refused.',
    mend: 'Make them there from Align, or switch them on.',
    test: ({
      baseline: {
        baseline: { dimensions: agreed },
      },
      dimensions,
      pulled,
    }) => {
      if (!pulled) return ['open', 'Nothing of it has been pulled yet']
      const lacking = agreed.filter((value) => !dimensions.has(value.id)).map((value) => value.name)
      return pass({
        holds: lacking.length === 0,
        fact:
          agreed.length === 0
            ? 'None is agreed'
            : lacking.length === 0
              ? `All ${agreed.length}`
              : `It lacks ${lacking.join(', ')}`,
      })
    },
  },
  {
    code: 'inventory',
    group: 'Structure',
    roles: ['ledger'],
    blocks: false,
    question: 'Is stock kept in one place, with accounts for it?',
    why: 'Where two keep it, the cost of what is sold is booked twice; without accounts it is booked nowhere.',
    mend: 'Leave it to one of them, and give cost of sales and inventory a posting rule each.',
    test: ({
      system,
      settings,
      others,
      baseline: {
        baseline: { postingRules },
      },
    }) => {
      const keeping = [{ name: system.name, settings }, ...others]
        .filter((one) => one.settings?.keepsInventory === true)
        .map((one) => one.name)
      if (keeping.length !== 1)
        return pass({
          holds: keeping.length === 0,
          fact: keeping.length === 0 ? 'Nobody says that they keep any' : `${keeping.join(' and ')} keep it`,
        })
      const lacking = STOCK_KINDS.filter((kind) => !postingRules.some((rule) => rule.kind === kind)).map(
        (kind) => kind.replaceAll('-', ' '),
      )
      return pass({
        holds: lacking.length === 0,
        fact:
          lacking.length === 0
            ? `${keeping[0] ?? ''} keeps it, and both posting rules are there`
            : `${keeping[0] ?? ''} keeps it; no posting rule for ${lacking.join(' and ')}`,
      })
    },
  },
]
