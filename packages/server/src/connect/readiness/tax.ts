import { pass, type Rule } from './rule.ts'

/** Each source charges its own sales, by itself or through the tax service that computes for it: another one beside it charges others. */
const ONE_COMPUTES: Omit<Rule, 'code' | 'roles' | 'blocks'> = {
  group: 'Tax',
  question: 'Does exactly one thing compute tax on its sales?',
  why: 'Two would charge twice, none would charge nothing.',
  mend: 'Leave tax on in one of them, and switch it off in the others.',
  test: ({ system, settings, others, servedBy }) => {
    const itself = servedBy.length > 0 ? [] : [{ name: system.name, settings }]
    const computing = [
      ...servedBy,
      ...[...itself, ...others.filter((o) => o.role === 'ledger')]
        .filter((s) => s.settings?.computesTax)
        .map((s) => s.name),
    ]
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

/** Whether tax and money come out the same. */
export const TAX_CHECKS: readonly Rule[] = [
  {
    code: 'holds-tax',
    group: 'Tax',
    roles: ['ledger', 'billing', 'pos', 'commerce', 'purchasing', 'tax-service'],
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
        (one) => one.settings !== null && (one.served || one.settings.computesTax) === settings.computesTax,
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
    roles: ['ledger', 'billing', 'pos', 'commerce', 'purchasing', 'payments', 'bank', 'tax-service'],
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
]
