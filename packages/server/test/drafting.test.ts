import { About, SourceDocument, type Settings } from '@axion/contract'
import {
  baselineOf,
  covers,
  draftBaseline,
  indexBaseline,
  partsOf,
  placeOf,
  type Decision,
} from '@axion/core'
import { business, COUNTRY, percentOn, type Business, type MadeSystem, type Truth } from '@axion/demo'
import { describe, expect, it } from 'vitest'
import { givenOf } from '../src/align/draft/given.ts'
import type { StoredDocument } from '../src/documents/units.ts'
import { holdingOf, type HeldSystem, type SystemRow } from '../src/setUp/held.ts'

/** A baseline drafted from the systems of businesses that nobody has a baseline of, held against what is right by their own making. */
const SEEDS = [3, 17, 29, 101, 404, 1001, 2718, 31415, 60221, 271828]

function heldOf(id: string, role: 'ledger' | 'billing', made: MadeSystem): HeldSystem {
  const objects = Object.entries(made.objects)
    .filter(([resource]) => resource !== 'documents')
    .flatMap(([resource, of]) =>
      of.map((one) => ({ resource: resource as never, id: one.id, revision: '1', value: one.value })),
    )
  const row: unknown = {
    ...{ system_id: id, role, name: id, address: 'http://localhost', token_sealed: '', goesOut: true },
    about: {} as About,
    settings: made.settings as Settings,
  }
  return { row: row as SystemRow, ...holdingOf({ objects, links: [], codes: [] }) }
}

function drafted({ ledger, billing }: Business) {
  const systems = [heldOf('ledger', 'ledger', ledger), heldOf('billing', 'billing', billing)]
  const documents = (billing.objects.documents ?? []).map(({ id, value }): StoredDocument => {
    const document = SourceDocument.parse(value)
    return {
      ...{
        system_id: 'billing',
        document_id: id,
        revision: '1',
        status: document.status,
        kind: document.kind,
      },
      ...{ value: document, not_taken: null, posted: true },
    }
  })
  const nothing = indexBaseline(baselineOf({}))
  const given = givenOf(
    systems,
    { month: '2026-09', documents, families: () => null },
    { index: nothing, currency: 'USD' },
  )
  const draft = draftBaseline(given)
  const explains = draft.explainedBy(baselineOf(partsOf(draft.decisions)))
  return { given, draft, explained: new Set(given.sales.filter(explains).map(({ id }) => id)) }
}

/** The levies of a rate of the made-up billing, by its id. */
function leviesOf(rateId: string): string[] {
  return rateId.replace(/^b-/, '').replace(/\/.*/, '').split('+')
}

/** What a decision that all systems agree upon has wrong, by the business's own making. */
function wrongIn(
  { about, options, chosen, name }: Decision,
  { land, codeOfItem }: Truth,
  charged: ReadonlySet<string>,
): string[] {
  const parts = options[chosen]?.parts ?? {}
  const levies = new Map(land.places.flatMap(({ levies: of }) => of.map((levy) => [levy.id, levy] as const)))
  const cells = (of: (place: Truth['land']['places'][number]) => boolean): string[] =>
    [...new Set(land.places.filter(of).map(({ postalCode }) => postalCode))].sort()
  switch (about) {
    case 'agency':
      return land.agencies.some((agency) => agency.code === parts.agencies?.[0]?.code && agency.name === name)
        ? []
        : [`no such agency: ${name}`]
    case 'place': {
      const [place] = parts.jurisdictions ?? []
      const own = [...levies.values()].filter(
        (levy) =>
          levy.agency === place?.agencyId &&
          (place.name === levy.name || place.name.startsWith(`${levy.name},`)),
      )
      const isWithin = (at: Truth['land']['places'][number]): boolean =>
        place !== undefined &&
        placeOf({ country: COUNTRY, region: at.region.code, city: at.city, postalCode: at.postalCode }, [
          place,
        ]).jurisdictions.length > 0
      const covered = cells(isWithin)
      const [levy] = own
      if (!levy || own.length > 1) return [`${name} is ${own.length} levies`]
      const right = cells(({ levies: of }) => of.includes(levy))
      const days = ['2026-09-01', '2026-09-15', '2026-09-16', '2026-09-30']
      const percents = days.map((day) => parts.rateVersions?.find((v) => covers(v.valid, day))?.percent)
      return [
        // Where nobody was charged anything yet, nobody can know.
        ...(covered.every((code) => right.includes(code)) &&
        right.every((code) => covered.includes(code) || !charged.has(`${code} ${levy.id}`))
          ? []
          : [`${name} covers ${covered.join()} and not ${right.join()}`]),
        ...(days.every((day, at) => percents[at] === percentOn(levy, day))
          ? []
          : [`${name}: ${percents.join()}`]),
      ]
    }
    case 'item':
      return (parts.items ?? [])
        .filter((item) => codeOfItem.get(item.id) !== item.itemTaxCode)
        .map(({ id }) => id)
    default:
      return []
  }
}

describe.each(SEEDS)('a business of seed %i', (seed) => {
  const made = business(seed, 600)
  const { given, draft, explained } = drafted(made)

  it('is explained to the cent for nineteen documents in twenty that are right, and for none that is wrong', () => {
    const right = given.sales.filter(({ id }) => !made.truth.wrong.has(id.slice('billing/'.length)))
    const missed = right.filter(({ id }) => !explained.has(id))
    expect(made.truth.wrong.size).toBeGreaterThan(0)
    expect(missed.length * 20).toBeLessThanOrEqual(right.length)
    // One that is right is missed only where no more documents of its place are right than wrong.
    const isWrong = (id: string): boolean => made.truth.wrong.has(id.slice('billing/'.length))
    const beside = ({ document }: (typeof given.sales)[number]): string[] =>
      given.sales
        .filter(
          (other) =>
            other.document.shipTo.postalCode === document.shipTo.postalCode &&
            other.taxes.some(({ tax }) => tax > 0n),
        )
        .map(({ id }) => id)
    const unsaid = missed.filter((one) => beside(one).filter(isWrong).length * 2 < beside(one).length)
    expect(unsaid.map(({ id }) => id)).toEqual([])
    // What alone tells of its place is believed, and agreed upon by nobody.
    const taken = given.sales.filter(
      (one) =>
        isWrong(one.id) &&
        explained.has(one.id) &&
        beside(one).length > 1 &&
        !missed.some(({ id }) => beside(one).includes(id)),
    )
    expect(taken.map(({ id }) => id)).toEqual([])
  })

  it('has nothing wrong in what its systems agree upon, and asks where they do not', () => {
    const agreed = draft.decisions.filter(({ standing }) => standing === 'agreed')
    expect(agreed.length).toBeGreaterThan(20)
    const charged = new Set(
      given.sales
        .filter(({ id }) => !made.truth.wrong.has(id.slice('billing/'.length)))
        .flatMap(({ document, taxes }) =>
          taxes
            .filter(({ tax }) => tax > 0n)
            .flatMap(({ rateId }) => leviesOf(rateId).map((levy) => `${document.shipTo.postalCode} ${levy}`)),
        ),
    )
    expect(agreed.flatMap((decision) => wrongIn(decision, made.truth, charged))).toEqual([])
    const open = draft.decisions
      .filter(({ doubts }) => doubts.includes('systems-differ'))
      .map(({ name }) => name)
    const outdated = made.truth.land.places
      .flatMap(({ levies }) => levies)
      .filter(({ id }) => made.truth.outdated.has(id))
      .map(({ name }) => name)
    expect(open.map((name) => name.split(',')[0]).sort()).toEqual([...new Set(outdated)].sort())
  })
})

it('is as good where codes have spaces in them: what is drafted has codes of its own, and links to theirs', () => {
  const made = business(17, 300)
  const spaced = (of: MadeSystem): MadeSystem =>
    JSON.parse(
      JSON.stringify(of)
        .replaceAll('"FOOD"', '"Food and drink"')
        .replaceAll('SKU-', 'SKU ')
        .replace(/"C(\d{3})"/g, '"C $1"'),
    ) as MadeSystem
  const plain = drafted(made)
  const { draft, explained } = drafted({
    ...made,
    ledger: spaced(made.ledger),
    billing: spaced(made.billing),
  })
  expect([explained.size, plain.explained.size > 200]).toEqual([plain.explained.size, true])
  const baseline = baselineOf(partsOf(draft.decisions))
  const codes = [...baseline.items, ...baseline.itemTaxCodes, ...baseline.parties].map(({ id }) => id)
  expect(codes.filter((code) => /\s/.test(code))).toEqual([])
  const links = draft.decisions.flatMap(({ options, chosen }) => options[chosen]?.links ?? [])
  for (const kind of ['item', 'item-tax-code', 'party'])
    expect(links.some((link) => link.kind === kind)).toBe(true)
})

it('asks nobody about a ledger that keeps no exemptions, and whose default is charged on nothing', () => {
  const made = business(29, 300)
  const { parties = [], ...others } = made.ledger.objects
  const ledger = {
    settings: { ...made.ledger.settings, defaultItemTaxCode: 'MEDICAL' },
    objects: {
      ...others,
      parties: parties.map(({ id, value }) => ({ id, value: { ...value, exemption: null } })),
    },
  }
  const { draft } = drafted({ ...made, ledger })
  const differ = draft.decisions.filter(
    ({ about, doubts }) => (about === 'party' || about === 'item') && doubts.includes('systems-differ'),
  )
  expect(differ.map(({ key }) => key)).toEqual([])
  expect(
    draft.decisions.some(({ about, options }) => about === 'party' && options[0]?.key === 'resale'),
  ).toBe(true)
})

describe('what is drafted says no more than was seen', () => {
  const made = business(29, 300)
  const told = (change: (value: Readonly<Record<string, unknown>>) => boolean): Business => ({
    ...made,
    billing: {
      ...made.billing,
      objects: {
        ...made.billing.objects,
        documents: (made.billing.objects.documents ?? []).filter(({ value }) => change(value)),
      },
    },
  })
  const rewritten = (from: string | RegExp, to: string): Business => {
    const of = (system: MadeSystem): MadeSystem =>
      JSON.parse(JSON.stringify(system).replaceAll(from, to)) as MadeSystem
    return { ...made, ledger: of(made.ledger), billing: of(made.billing) }
  }
  const rulesOf = (code: string, of: Business) =>
    baselineOf(partsOf(drafted(of).draft.decisions)).codeRules.filter(
      ({ itemTaxCode }) => itemTaxCode === code,
    )

  it('of an item tax code: where one region never sold it, no rule of the country speaks for it', () => {
    const codeOf = made.truth.codeOfItem
    const isMedical = (value: Readonly<Record<string, unknown>>): boolean =>
      (value['lines'] as { itemCode: string }[]).some(({ itemCode }) => codeOf.get(itemCode) === 'MEDICAL')
    expect(rulesOf('MEDICAL', made).map(({ jurisdictionId }) => jurisdictionId)).toEqual([COUNTRY])
    const inOne = told(
      (value) => !isMedical(value) || (value['shipTo'] as { region: string }).region === 'XQ-BE',
    )
    expect(rulesOf('MEDICAL', inOne).map(({ jurisdictionId }) => jurisdictionId)).toEqual(['XQ-BE'])
  })

  it('of days: without a document, what holds does so from the month that is worked', () => {
    const baseline = baselineOf(partsOf(drafted(told(() => false)).draft.decisions))
    expect(baseline.postingRules.length).toBeGreaterThan(0)
    expect(new Set(baseline.postingRules.map(({ valid }) => valid.from))).toEqual(new Set(['2026-09-01']))
  })

  it('of places: an agency that bears its region’s name is no other region', () => {
    const levels = (of: Business) =>
      baselineOf(partsOf(drafted(of).draft.decisions))
        .jurisdictions.map(({ level, name }) => `${level} ${name}`)
        .sort()
    expect(levels(rewritten('"ARRD"', '"XQ-AR"'))).toEqual(levels(made))
  })

  it('of rates: what taxes nothing is asked of no place, and an amount per unit is no percent', () => {
    const nil = { code: null, name: 'Exempt', percent: '0', active: true, components: null }
    const rates = [...(made.billing.objects['tax-rates'] ?? []), { id: 'b-nil', value: nil }]
    const { draft } = drafted({
      ...made,
      billing: { ...made.billing, objects: { ...made.billing.objects, 'tax-rates': rates } },
    })
    expect(draft.decisions.filter(({ name }) => name === 'Exempt')).toEqual([])
    const county = /("name":"Ash County","percent":")[^"]*(","perUnit":)null/g
    const units = drafted(rewritten(county, '$10$2"0.10"')).draft.decisions
    expect(units.find(({ about, name }) => about === 'place' && name === 'Ash County')?.doubts).toContain(
      'by-unit',
    )
  })
})
