import { rateKey } from './charged.ts'
import { COUNTRY, percentOn, type Land, type Levy } from './land.ts'
import { decimal, held, MONTH, titled, type Held, type Item, type Party } from './shapes.ts'

export interface Rate {
  readonly key: string
  readonly name: string
  readonly parts: readonly { readonly levy: Levy; readonly percents: Levy['percents'] }[]
}

/** Every rate that the land's places and codes need, sold under or not. */
export function ratesOf({ places, regions }: Land): Rate[] {
  const made = new Map<string, Rate>()
  const note = (levies: readonly Levy[], code: string | null, own: Levy['percents'] | null): void => {
    const key = rateKey(levies, code)
    if (levies.length === 0 || made.has(key)) return
    made.set(key, {
      key,
      name: `${levies.at(-1)?.name ?? ''}${levies.length === 1 ? ', rest' : ''}${code === null ? '' : `, ${titled(code).toLowerCase()}`}`,
      parts: levies.map((levy, at) => ({
        levy,
        percents: at === 0 && own !== null ? own : levy.percents,
      })),
    })
  }
  for (const { levies } of places) note(levies, null, null)
  for (const region of regions)
    for (const [code, rule] of Object.entries(region.rules))
      if (rule.is === 'reduced')
        for (const { levies } of places.filter((place) => place.region === region))
          note(rule.locals === 'none' ? levies.slice(0, 1) : levies, code, rule.percents)
  return [...made.values()]
}

/** A rate as a system holds it; of levies that are outdated there, with another percent. */
export function heldRate({ key, name, parts }: Rate, system: string, outdated: ReadonlySet<string>): Held {
  const shown = parts.map(({ levy, percents }) => {
    const off = outdated.has(levy.id) && percents === levy.percents ? 125_000n : 0n
    return { levy, percents: percents.map(([from, percent]) => [from, percent - off] as const) }
  })
  return held(`${system}-${key}`, {
    code: null,
    name,
    percent: decimal(shown.reduce((sum, { percents }) => sum + percentOn({ percents }, `${MONTH}-30`), 0n)),
    active: true,
    components: shown.flatMap(({ levy, percents }) =>
      percents.map(([from, percent], at) => ({
        ...{
          agencyId: `${system}-${levy.agency}`,
          name: levy.name,
          percent: decimal(percent),
          perUnit: null,
          onTopOf: [],
        },
        from,
        to: percents[at + 1]?.[0] == null ? null : dayBefore(percents[at + 1]?.[0] ?? ''),
      })),
    ),
  })
}

function dayBefore(day: string): string {
  return `${day.slice(0, 8)}${String(Number(day.slice(8)) - 1).padStart(2, '0')}`
}

export function heldItem({ code, name, kind }: Item, itemTaxCode: string | null): Held {
  return held(code, { code, name, kind, taxable: itemTaxCode !== 'MEDICAL', itemTaxCode })
}

export function heldParty({ id, name, exempt, place }: Party): Held {
  return held(id, {
    name,
    exemption: exempt === null ? null : { reason: exempt, certificate: null, from: null, to: null },
    address: { country: COUNTRY, region: place.region.code, city: place.city, postalCode: place.postalCode },
  })
}

export function accountsOf({ agencies }: Land): Held[] {
  const own = [
    ['1100', 'Accounts receivable', 'receivable'],
    ['1000', 'Bank', 'bank'],
    ['4000', 'Sales', 'income'],
    ['4100', 'Freight charged', 'income'],
    ['4900', 'Other income', 'income'],
  ] as const
  return [
    ...own.map(([number, name, type]) => held(`acc-${number}`, { number, name, type })),
    ...agencies.map((a) =>
      held(`acc-${a.account}`, { number: a.account, name: `Tax owed, ${a.name}`, type: 'current-liability' }),
    ),
  ]
}
