import type { CodeRule } from '../baseline/baseline.ts'
import { groupBy } from '../baseline/lookup.ts'
import { chosenAmong, standingOf, type Decision, type Doubt, type Option } from './decision.ts'
import { countryOf } from './levied.ts'
import { salesOf } from './observed.ts'
import { frameOf } from './places.ts'
import type { Levying } from './levying.ts'
import type { Holder } from './given.ts'
import type { Thing } from './meet.ts'
import { taxCodeOf } from './naming.ts'
import type { CodeSeen, DraftedRule } from './treatments.ts'

const UNTAXED = ['exempt', 'zero-rated', 'out-of-scope'] as const

/** Each item tax code with what its sales say that it means for tax, region by region. */
export function codeDecisions({ given, places, codes: seen, regions, choices }: Levying): Decision[] {
  const named = groupBy(given.holders.flatMap(codesOf), ({ code }) => taxCodeOf(code ?? ''))
  return [...named].sort().flatMap(([code, members]): Decision[] => {
    const key = `code:${code}`
    const own = seen.filter((one) => one.code === code)
    const name = members.find((member) => member.name !== code)?.name ?? code
    const rules = widened(own, places, regions)
    const untaxed = rules.some(({ treatment }) => UNTAXED.some((one) => one === treatment))
    const option = (optionKey: string, of: readonly DraftedRule[]): Option => ({
      key: optionKey,
      holders: [...new Set(own.flatMap(({ lines }) => lines.map(({ sale }) => sale.holderId)))],
      links: members
        .filter(
          (member) =>
            member.code !== code &&
            given.holders.some(
              ({ id, codes }) => id === member.holderId && codes.some((one) => one.id === member.id),
            ),
        )
        .map((member) => ({
          kind: 'item-tax-code',
          holderId: member.holderId,
          objectId: member.id,
          baselineId: code,
        })),
      parts: {
        itemTaxCodes: [{ id: code, name }],
        codeRules: of.map((rule): CodeRule => ({
          id: `${rule.place}/${code}@${rule.valid?.from ?? given.seen.from}`,
          jurisdictionId: rule.place,
          itemTaxCode: code,
          treatment: rule.treatment,
          percent: rule.percent,
          perUnit: rule.perUnit,
          threshold: rule.threshold,
          cap: rule.cap,
          currency:
            rule.threshold !== null || rule.cap !== null || rule.perUnit !== null ? given.currency : null,
          recoverable: null,
          valid: { from: rule.valid?.from ?? given.seen.from, to: rule.valid?.to ?? null },
        })),
      },
    })
    const usual = rules.find(({ treatment }) => UNTAXED.some((one) => one === treatment))?.treatment
    const options = untaxed
      ? [usual ?? 'exempt', ...UNTAXED.filter((one) => one !== usual)].map((treatment) =>
          option(
            treatment,
            rules.map((rule) =>
              UNTAXED.some((one) => one === rule.treatment) ? { ...rule, treatment } : rule,
            ),
          ),
        )
      : [option('as-sold', rules)]
    const against = salesOf(own.flatMap((one) => one.against))
    const between = own.find(({ limitBetween }) => limitBetween !== null)?.limitBetween
    const doubts: Doubt[] = [
      ...(against.length > 0 ? (['documents-differ'] as const) : []),
      ...(between ? (['limit-between'] as const) : []),
    ]
    return [
      {
        key,
        about: 'code',
        name,
        called: [],
        doubts,
        ...(between ? { between } : {}),
        standing: standingOf(doubts, options[0]?.holders ?? []),
        options,
        chosen: chosenAmong(key, options, choices),
        needs: [...new Set(rules.map(({ place }) => `place:${place}`))],
        rests: salesOf(own.flatMap(({ lines }) => lines)),
        against,
      },
    ]
  })
}

/** Every code that a system has, or has an item under. */
function codesOf(holder: Holder): Thing[] {
  return [
    ...new Map(
      [
        ...holder.codes,
        ...holder.items.flatMap(({ itemTaxCode: code }) =>
          code === null ? [] : [{ id: code, code, name: code }],
        ),
        ...(holder.defaultItemTaxCode === null
          ? []
          : [
              {
                id: holder.defaultItemTaxCode,
                code: holder.defaultItemTaxCode,
                name: holder.defaultItemTaxCode,
              },
            ]),
      ]
        .reverse()
        .map((one): readonly [string, Thing] => [
          one.code,
          {
            holderId: holder.id,
            id: one.id,
            code: one.code,
            name: one.name,
            components: null,
            jurisdictions: null,
          },
        ]),
    ).values(),
  ]
}

/** One rule of a country in place of the same one of each of its regions that charge anything: where one of them never sold it, nobody knows. */
function widened(
  own: readonly CodeSeen[],
  places: Levying['places'],
  regions: Levying['regions'],
): DraftedRule[] {
  const charging = regions.filter(({ rates }) => rates.size > 0).map(({ region }) => region)
  return [...groupBy(own, ({ region }) => countryOf(region))].flatMap(([country, of]) => {
    const telling = of.filter(({ region }) => charging.includes(region))
    const everywhere = charging.filter((region) => countryOf(region) === country).length === telling.length
    const place = frameOf(places.all, { country, region: null })
    const [first] = telling
    const [only] = first?.rules ?? []
    const text = ({ rules: [rule, ...more] }: CodeSeen): string =>
      rule === undefined || more.length > 0
        ? ''
        : [rule.treatment, rule.threshold?.limit, rule.threshold?.taxes, rule.cap].join('|')
    const isOwn = only?.treatment === 'reduced' || only?.treatment === 'per-unit'
    const same =
      first !== undefined && text(first) !== '' && telling.every((one) => text(one) === text(first))
    return everywhere && same && place && only && !isOwn
      ? [{ ...only, place: place.code }]
      : of.flatMap(({ rules }) => rules)
  })
}
