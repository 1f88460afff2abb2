import { groupBy } from '../baseline/lookup.ts'
import { chosenAmong, namesOf, standingOf, type Decision, type Doubt, type Option } from './decision.ts'
import type { Levying } from './levying.ts'
import { holdersOf, meet } from './meet.ts'
import { codeFrom, isCode, taxCodeOf } from './naming.ts'

function standsUnder(code: string | null): string | null {
  return code === null ? null : taxCodeOf(code)
}

/** Each item with its code: what it stands under in the systems that say so. */
export function itemDecisions({ given, choices }: Levying): Decision[] {
  const sells = new Set(given.sales.map(({ holderId }) => holderId))
  const met = meet(
    given.holders.map((holder) =>
      holder.items.map((item) => ({
        holderId: holder.id,
        id: item.id,
        code: item.code,
        name: item.name,
        components: null,
        jurisdictions: null,
        // What stands on a default is charged by it where anything is charged; elsewhere it says nothing.
        stands: standsUnder(item.itemTaxCode ?? (sells.has(holder.id) ? holder.defaultItemTaxCode : null)),
      })),
    ),
  )
  const taken = new Set<string>()
  const sold = salesBy(given, (named, holderId) => named.map((code) => `${holderId}/${code}`))
  return met.flatMap(({ members, doubts }): Decision[] => {
    const code =
      [
        ...members.map(({ holderId, id }) => given.linked('item', holderId, id)),
        ...members.map((member) => member.code),
      ].find((one): one is string => isCode(one) && !taken.has(one)) ??
      codeFrom(members[0]?.name ?? '', taken)
    taken.add(code)
    const key = `item:${code}`
    const name = members[0]?.name.trim() ?? code
    const said = groupBy(
      members.filter((member) => member.stands !== null),
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
  const keep = new Set(
    given.holders.filter(({ parties }) => parties.some(({ claims }) => claims !== null)).map(({ id }) => id),
  )
  const taken = new Set<string>()
  const bought = groupBy(given.sales, ({ holderId, document }) => `${holderId}/${document.partyId ?? ''}`)
  return met.flatMap(({ members, doubts }): Decision[] => {
    const [first] = members
    if (!first) return []
    const code =
      [...members.map(({ holderId, id }) => given.linked('party', holderId, id)), first.id].find(isCode) ??
      codeFrom(first.name, taken)
    taken.add(code)
    const key = `party:${code}`
    const address = members.find(({ party }) => party.address !== null)?.party.address ?? null
    // Who keeps no exemptions at all says nothing of one that lacks.
    const telling = members.filter(({ holderId }) => keep.has(holderId))
    const options = [...groupBy(telling.length > 0 ? telling : members, ({ party }) => party.claims ?? '')]
      .sort(([a], [b]) => (a === '' ? 1 : b === '' ? -1 : a < b ? -1 : 1))
      .map(([claims, of]): Option => ({
        key: claims === '' ? 'claims-nothing' : claims,
        holders: holdersOf(of),
        parts: {
          parties: [
            {
              id: code,
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
