import type { CodeRule } from '../baseline/baseline.ts'
import { groupBy } from '../baseline/lookup.ts'
import { chosenAmong, namesOf, standingOf, type Decision, type Doubt, type Option } from './decision.ts'
import { countryOf } from './levied.ts'
import type { Levying } from './levying.ts'
import type { Holder } from './given.ts'
import { holdersOf, meet, type Thing } from './meet.ts'
import { isCode } from './naming.ts'
import type { CodeSeen, DraftedRule } from './treatments.ts'

const UNTAXED = ['exempt', 'zero-rated', 'out-of-scope'] as const

/** Each item tax code with what its sales say that it means for tax, region by region. */
export function codeDecisions({ given, places, codes: seen, regions, choices }: Levying): Decision[] {
  const named = groupBy(given.holders.flatMap(codesOf), ({ code }) => code ?? '')
  return [...named].sort().flatMap(([code, members]): Decision[] => {
    if (!isCode(code)) return []
    const key = `code:${code}`
    const own = seen.filter((one) => one.code === code)
    const name = members.find((member) => member.name !== code)?.name ?? code
    const rules = widened(own, places, regions)
    const untaxed = rules.some(({ treatment }) => UNTAXED.some((one) => one === treatment))
    const option = (optionKey: string, of: readonly DraftedRule[]): Option => ({
      key: optionKey,
      holders: [...new Set(own.flatMap(({ lines }) => lines.map(({ sale }) => sale.holderId)))],
      links: [],
      parts: {
        itemTaxCodes: [{ id: code, name }],
        codeRules: of.map((rule): CodeRule => ({
          id: `${rule.place}/${code}@${given.seen.from}`,
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
          valid: { from: given.seen.from, to: null },
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
    const against = [...new Set(own.flatMap((one) => one.against.map(({ sale }) => sale.id)))].sort()
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
        rests: [...new Set(own.flatMap(({ lines }) => lines.map(({ sale }) => sale.id)))].sort(),
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

/** One rule of a country in place of the same one of each of its regions; a region where nothing is charged at all follows the others. */
function widened(
  own: readonly CodeSeen[],
  places: Levying['places'],
  regions: Levying['regions'],
): DraftedRule[] {
  const charging = new Set(regions.filter(({ rates }) => rates.size > 0).map(({ region }) => region))
  return [...groupBy(own, ({ region }) => countryOf(region))].flatMap(([country, of]) => {
    const telling = of.filter(({ region }) => charging.has(region))
    const rest = of.filter(({ region }) => !charging.has(region))
    const [first] = telling.length > 0 ? telling : rest
    const place = places.all.find(
      ({ level, covers: [cover] }) => level === 'country' && cover?.country === country,
    )
    const text = ({ rules }: CodeSeen): string =>
      rules.length === 1
        ? [rules[0]?.treatment, rules[0]?.threshold?.limit, rules[0]?.threshold?.taxes, rules[0]?.cap].join(
            '|',
          )
        : ''
    const [only] = first?.rules ?? []
    const isOwn = only?.treatment === 'reduced' || only?.treatment === 'per-unit'
    if (
      first &&
      place &&
      only &&
      !isOwn &&
      text(first) !== '' &&
      telling.every((one) => text(one) === text(first))
    )
      return [{ ...only, place: place.code }]
    return of.flatMap(({ rules }) => rules)
  })
}

/** Each item with its code: what it stands under in the systems that say so. */
export function itemDecisions({ given, choices }: Levying): Decision[] {
  const met = meet(
    given.holders.map((holder) =>
      holder.items.map((item) => ({
        holderId: holder.id,
        id: item.id,
        code: item.code,
        name: item.name,
        components: null,
        jurisdictions: null,
        stands: item.itemTaxCode ?? holder.defaultItemTaxCode,
      })),
    ),
  )
  const taken = new Set<string>()
  const sold = salesBy(given, (named, holderId) => named.map((code) => `${holderId}/${code}`))
  return met.flatMap(({ members, doubts }): Decision[] => {
    const code = [
      ...members.map(({ holderId, id }) => given.linked('item', holderId, id)),
      ...members.map((member) => member.code),
    ].find((one) => isCode(one) && !taken.has(one))
    if (code == null) return []
    taken.add(code)
    const key = `item:${code}`
    const name = members[0]?.name.trim() ?? code
    const said = groupBy(
      members.filter((member) => isCode(member.stands)),
      (member) => member.stands ?? '',
    )
    const options = [...said]
      .sort((a, b) => b[1].length - a[1].length)
      .map(([itemTaxCode, of]): Option => ({
        key: itemTaxCode,
        holders: holdersOf(of),
        parts: { items: [{ id: code, name, itemTaxCode }] },
        links: members
          .filter((member) => member.code !== code)
          .map((member) => ({
            kind: 'item',
            holderId: member.holderId,
            objectId: member.id,
            baselineId: code,
          })),
      }))
    const all: Doubt[] = [
      ...doubts,
      ...(options.length > 1 ? (['systems-differ'] as const) : []),
      ...(options.length === 0 ? (['nobody-says'] as const) : []),
    ]
    return [
      {
        key,
        about: 'item',
        name,
        called: namesOf(members.map((member) => member.name)),
        doubts: [...new Set(all)],
        standing: standingOf(all, options[0]?.holders ?? []),
        options,
        chosen: chosenAmong(key, options, choices),
        needs: options.length === 0 ? [] : [`code:${options[chosenAmong(key, options, choices)]?.key ?? ''}`],
        rests: members.flatMap((member) => sold.get(`${member.holderId}/${member.code}`) ?? []),
        against: [],
      },
    ]
  })
}

/** Documents by what their lines name. */
function salesBy(
  { sales }: Levying['given'],
  keysOf: (itemCodes: readonly string[], holderId: string) => readonly string[],
): ReadonlyMap<string, readonly string[]> {
  const by = new Map<string, Set<string>>()
  for (const sale of sales) {
    const codes = [...sale.named.values()].flatMap(({ itemCode }) => itemCode ?? [])
    for (const key of keysOf(codes, sale.holderId)) by.set(key, (by.get(key) ?? new Set()).add(sale.id))
  }
  return new Map([...by].map(([key, ids]) => [key, [...ids].sort()]))
}

/** Everybody that is sold to, with the exemption that systems hold them to claim: that they have one is for a certificate to show. */
export function partyDecisions({ given, choices }: Levying): Decision[] {
  const met = meet(
    given.holders.map((holder) =>
      holder.parties.map((party) => ({
        holderId: holder.id,
        id: party.id,
        code: party.id,
        name: party.name,
        components: null,
        jurisdictions: null,
        party,
      })),
    ),
  )
  const bought = groupBy(given.sales, ({ holderId, document }) => `${holderId}/${document.partyId ?? ''}`)
  return met.flatMap(({ members, doubts }): Decision[] => {
    const [first] = members
    const code = [
      ...members.map(({ holderId, id }) => given.linked('party', holderId, id)),
      first?.id ?? null,
    ].find(isCode)
    if (!first || code === undefined) return []
    const key = `party:${code}`
    const address = members.find(({ party }) => party.address !== null)?.party.address ?? null
    const options = [...groupBy(members, ({ party }) => party.claims ?? '')]
      .sort(([a], [b]) => (a === '' ? 1 : b === '' ? -1 : a < b ? -1 : 1))
      .map(([claims, of]): Option => ({
        key: claims === '' ? 'claims-nothing' : claims,
        holders: holdersOf(of),
        parts: {
          parties: [
            {
              id: first.id,
              name: first.name.trim(),
              claims: claims === '' ? null : claims,
              catchAll: false,
              address,
            },
          ],
        },
        links: members
          .filter(({ id }) => id !== code)
          .map(({ holderId, id }) => ({ kind: 'party', holderId, objectId: id, baselineId: code })),
      }))
    const all: Doubt[] = [...doubts, ...(options.length > 1 ? (['systems-differ'] as const) : [])]
    return [
      {
        key,
        about: 'party',
        name: first.name.trim(),
        called: namesOf(members.map((member) => member.name)),
        doubts: [...new Set(all)],
        standing: standingOf(all, options[0]?.holders ?? []),
        options,
        chosen: chosenAmong(key, options, choices),
        needs: [],
        rests: members.flatMap(({ holderId, id }) =>
          (bought.get(`${holderId}/${id}`) ?? []).map((sale) => sale.id),
        ),
        against: [],
      },
    ]
  })
}
