import type { About, Settings } from '@axion/contract'
import { describe, placeOf, POSTED_ONE_TO_ONE, type Address, type BaselineIndex } from '@axion/core'
import type { SystemRow } from '../setUp/held.ts'

/** `open`: not to be told before the next pull. Only a failing check that `blocks` holds posting up. */
export type CheckState = 'passes' | 'fails' | 'open'

export interface Check {
  readonly code: string
  readonly group: 'Tax' | 'Money' | 'Identity' | 'Structure' | 'Places' | 'History'
  readonly question: string
  readonly why: string
  readonly mend: string
  readonly blocks: boolean
}

export interface CheckResult {
  readonly code: string
  readonly state: CheckState
  /** The fact that was read, in words. */
  readonly fact: string
}

/** What the checks look at: facts read through the bridges, and what the entity has agreed. */
export interface ReadinessFacts {
  readonly system: SystemRow
  readonly about: About
  readonly settings: Settings
  readonly others: readonly {
    readonly name: string
    readonly role: string
    readonly settings: Settings | null
  }[]
  readonly entity: { readonly currency: string; readonly name: string }
  readonly baseline: BaselineIndex
  readonly rates: number
  readonly accountNumbers: ReadonlySet<string>
  readonly entriesOfOthers: number
  /** Whether it was ever pulled to the end. */
  readonly pulled: boolean
  /** The values of tracking dimensions that it has in use, as the baseline names them. */
  readonly dimensions: ReadonlySet<string>
  /** Its own addresses, and those its documents ship from, by what they are called. */
  readonly places: readonly { readonly name: string; readonly address: Address }[]
  readonly month: string
}

interface Rule extends Check {
  readonly roles: readonly string[]
  readonly test: (facts: ReadinessFacts) => readonly [CheckState, string]
}

const pass = ({
  holds,
  fact,
}: {
  readonly holds: boolean
  readonly fact: string
}): readonly [CheckState, string] => [holds ? 'passes' : 'fails', fact]

/** What a sale out of stock moves. */
export const STOCK_KINDS = ['cost-of-sales', 'inventory'] as const

/** Each source charges its own sales: another one beside it charges others. */
const ONE_COMPUTES: Omit<Rule, 'code' | 'roles' | 'blocks'> = {
  group: 'Tax',
  question: 'Does exactly one thing compute tax on its sales?',
  why: 'Two would charge twice, none would charge nothing.',
  mend: 'Leave tax on in one of them, and switch it off in the others.',
  test: ({ system, settings, others }) => {
    const computing = [{ name: system.name, settings }, ...others.filter((o) => o.role === 'ledger')]
      .filter((s) => s.settings?.computesTax)
      .map((s) => s.name)
    return pass({
      holds: computing.length === 1,
      fact:
        computing.length === 0
          ? 'Nothing does'
          : `${computing.join(' and ')} ${computing.length === 1 ? 'does' : 'do'}`,
    })
  },
}

const SELLING: readonly string[] = ['billing', 'pos', 'commerce']

const RULES: readonly Rule[] = [
  {
    code: 'holds-tax',
    group: 'Tax',
    roles: ['ledger', 'billing', 'pos', 'commerce', 'purchasing'],
    blocks: true,
    question: 'Can it hold tax at all?',
    why: 'A ledger without tax takes the documents and loses their tax.',
    mend: 'Switch sales tax on there, and set up at least one rate.',
    test: ({ system, settings, rates, pulled }) =>
      !settings.taxEnabled
        ? ['fails', 'Tax is off']
        : rates > 0
          ? ['passes', `Tax is on, with ${rates} ${rates === 1 ? 'rate' : 'rates'}`]
          : pulled
            ? [system.role === 'ledger' ? 'fails' : 'open', 'Tax is on, and it has no rate']
            : ['open', 'Tax is on; its rates have not been pulled yet'],
  },
  {
    code: 'tax-computation',
    group: 'Tax',
    roles: ['ledger'],
    blocks: true,
    question: 'How does it compute tax?',
    why: 'A ledger that computes by its own rate can book another amount than was charged.',
    mend: 'Have the bridge state how tax is computed.',
    test: ({ about }) =>
      pass({
        holds: about.taxComputation !== null,
        fact:
          about.taxComputation === 'by-rate'
            ? 'It computes tax itself, from the rate of each line'
            : about.taxComputation === 'as-given'
              ? 'It takes the amounts it is handed'
              : 'It does not say',
      }),
  },
  { ...ONE_COMPUTES, code: 'one-computes', roles: ['billing'], blocks: true },
  {
    ...ONE_COMPUTES,
    code: 'one-computes-all',
    roles: ['ledger'],
    blocks: false,
    question: 'Does exactly one thing compute tax for each that sells?',
    // A ledger that computes by the rate of a line computes again what was charged, and charges nothing by itself.
    test: ({ settings, others }) => {
      const selling = others.filter((one) => SELLING.includes(one.role))
      const unknown = selling.filter((one) => one.settings === null)
      const wrong = selling.filter(
        (one) => one.settings !== null && one.settings.computesTax === settings.computesTax,
      )
      if (selling.length === 0) return ['open', 'Nothing that sells is connected']
      if (unknown.length > 0 && wrong.length === 0)
        return [
          'open',
          `${unknown.map((one) => one.name).join(', ')} ${unknown.length === 1 ? 'has' : 'have'} not been read yet`,
        ]
      return pass({
        holds: wrong.length === 0,
        fact:
          wrong.length === 0
            ? `${selling.map((one) => one.name).join(', ')}: one each`
            : `${wrong.map((one) => one.name).join(', ')}: ${settings.computesTax ? 'the ledger computes too' : 'nothing does'}`,
      })
    },
  },
  // What they sell takes no booking one to one: it holds nothing up.
  { ...ONE_COMPUTES, code: 'one-computes-sales', roles: ['pos', 'commerce'], blocks: false },
  {
    code: 'base-currency',
    group: 'Money',
    roles: ['ledger', 'billing', 'pos', 'commerce', 'purchasing', 'payments', 'bank'],
    blocks: true,
    question: 'Is its base currency the entity’s?',
    why: 'Amounts in another base currency would be taken at face value.',
    mend: 'Connect the company that is kept in the entity’s currency.',
    test: ({ settings, entity }) =>
      pass({
        holds: settings.baseCurrency === entity.currency,
        fact: `${settings.baseCurrency} here, ${entity.currency} for the legal entity`,
      }),
  },
  {
    code: 'currencies',
    group: 'Money',
    roles: ['ledger'],
    blocks: true,
    question: 'Does it know every currency in use?',
    why: 'A document in a currency that the ledger lacks cannot be booked.',
    mend: 'Add the currency to the ledger.',
    test: ({ settings, others }) => {
      const used = new Set(others.flatMap((o) => o.settings?.currencies ?? []))
      const lacking = [...used].filter((code) => !settings.currencies.includes(code))
      return pass({
        holds: lacking.length === 0,
        fact:
          lacking.length === 0
            ? `It knows ${[...used].join(', ') || settings.baseCurrency}`
            : `It lacks ${lacking.join(', ')}`,
      })
    },
  },
  {
    code: 'keeps-numbers',
    group: 'Identity',
    roles: ['ledger'],
    blocks: true,
    question: 'Will a document keep its number?',
    why: 'With a number of the ledger’s own, nobody can find an invoice on both sides, and doubles go unseen.',
    mend: 'On the ledger’s settings page, let it keep the number of the document.',
    test: ({ settings }) =>
      pass({
        holds: settings.keepsDocumentNumbers,
        fact: settings.keepsDocumentNumbers
          ? 'It keeps the number of the document'
          : 'It gives every document a number of its own',
      }),
  },
  {
    code: 'finds-bookings',
    group: 'Identity',
    roles: ['ledger'],
    blocks: false,
    question: 'Can a booking be found again?',
    why: 'When an answer is lost, only a look-up tells whether the booking was made.',
    mend: 'Ask the maker of the bridge for look-ups; until then such a booking stays in doubt.',
    test: ({ about }) =>
      pass({
        holds: about.findsByExternalId && about.longestLateCommitSeconds !== null,
        fact: about.findsByExternalId
          ? about.longestLateCommitSeconds === null
            ? 'By external id, with no limit on late commits'
            : `By external id, at the latest ${about.longestLateCommitSeconds} s after`
          : 'Not by external id',
      }),
  },
  {
    code: 'pairs-credits',
    group: 'Identity',
    roles: ['ledger'],
    blocks: false,
    question: 'Is pairing credits with invoices left to us?',
    why: 'A ledger that pairs by itself may close the wrong invoice.',
    mend: 'Switch automatic application of credits off.',
    test: ({ settings }) =>
      pass({
        holds: !settings.pairsCreditsItself,
        fact: settings.pairsCreditsItself ? 'It pairs them itself' : 'It leaves it to us',
      }),
  },
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
  {
    code: 'places-resolve',
    group: 'Places',
    roles: ['billing', 'pos', 'commerce'],
    blocks: false,
    question: 'Do its own and its ship-from addresses lie in known jurisdictions?',
    why: 'An address in no jurisdiction, or in two alike, leaves open who taxes a sale.',
    mend: 'Complete the address there, or the jurisdictions’ covers in the baseline.',
    test: ({ baseline, places }) => {
      const lost = places.filter(
        ({ address }) => placeOf(address, baseline.baseline.jurisdictions).findings.length > 0,
      )
      return pass({
        holds: lost.length === 0,
        fact:
          places.length === 0
            ? 'It states none'
            : lost.length === 0
              ? `All ${places.length} do`
              : `${lost.map(({ name, address }) => `${name} (${describe(address)})`).join(', ')} ${lost.length === 1 ? 'does' : 'do'} not`,
      })
    },
  },
  {
    code: 'period-open',
    group: 'History',
    roles: ['ledger'],
    blocks: true,
    question: 'Is the month open for posting?',
    why: 'In a locked month every booking is refused.',
    mend: 'Unlock the month there, or work in the next.',
    test: ({ settings, month }) =>
      pass({
        holds: settings.lockedThrough === null || settings.lockedThrough < `${month}-01`,
        fact:
          settings.lockedThrough === null ? 'Nothing is locked' : `Locked through ${settings.lockedThrough}`,
      }),
  },
  {
    code: 'already-there',
    group: 'History',
    roles: ['ledger'],
    blocks: false,
    question: 'Is the month free of entries of others on tax accounts?',
    why: 'What somebody booked by hand or by another way would be booked twice.',
    mend: 'Look at the entries in Tie out; remove those that are doubles.',
    test: ({ entriesOfOthers, month, pulled }) =>
      pulled
        ? pass({
            holds: entriesOfOthers === 0,
            fact: entriesOfOthers === 0 ? `None in ${month}` : `${entriesOfOthers} in ${month}`,
          })
        : ['open', 'Its entries have not been pulled yet'],
  },
]

export const CHECKS: readonly Check[] = RULES

export function checkReadiness(facts: ReadinessFacts): CheckResult[] {
  return RULES.filter((rule) => rule.roles.includes(facts.system.role)).map((rule) => {
    const [state, fact] = rule.test(facts)
    return { code: rule.code, state, fact }
  })
}
