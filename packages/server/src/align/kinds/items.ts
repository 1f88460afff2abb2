import { findingOf, NEW_ROW, type Item, type Remedy } from '@axion/contract'
import { remembered, type BaselineIndex, type CodeTreatment } from '@axion/core'
import { standsFor } from '../../setUp/crosswalk.ts'
import type { Held, HeldSystem } from '../../setUp/held.ts'
import type { Found, GridBasis, KindOfSetUp, BaselineRow, AlignedSystem } from './kind.ts'

export const ITEMS: KindOfSetUp = {
  kind: 'items',
  link: 'item',
  resource: 'items',
  rows: ({ index, date }) =>
    index.baseline.items.map((item) => {
      const code = index.itemTaxCodeOf(item.id, date) ?? item.itemTaxCode
      return { id: item.id, name: item.name, group: item.id, detail: codeName(index, code), total: code }
    }),
  needs: () => false,
  matters: () => true,
  says: (held, objectId) => {
    const item = itemOf(held, objectId)?.value
    return item ? `${item.code}, ${item.itemTaxCode ?? 'no code'}` : ''
  },
  ofNew: ({ index }) => {
    const ours = index.baseline.defaults.itemTaxCode
    return ours === null
      ? null
      : {
          row: {
            id: NEW_ROW,
            name: 'New items',
            group: 'By default',
            detail: codeName(index, ours),
            total: ours,
          },
          of: ({ held, crosswalk }) => {
            const named = held.row.settings?.defaultItemTaxCode ?? null
            if (named === null) return null
            const match = crosswalk.find('item-tax-code', named)
            const theirs = (match && standsFor(match)) ?? named
            const facts = { system: held.row.name, ours, theirs }
            return {
              agrees: theirs === ours,
              words: theirs === ours ? ours : `${theirs}, not ${ours}`,
              found: theirs === ours ? [] : [findingOf('AXION_DEFAULT_CODE', facts)],
            }
          },
        }
  },
  about: owedAsIncome,
  compare: ({ index }, row, objectId, aligned) => {
    const { held } = aligned
    const item = itemOf(held, objectId)
    if (!item) return { agrees: false, words: '', fields: [], found: [], remedies: [] }
    const own = codeOf(item.value, aligned)
    const byDefault = item.value.itemTaxCode === null
    const ours = row.total
    const facts = { name: row.name, system: held.row.name, ours, theirs: own ?? 'no code' }
    const taxed = taxedAnywhere(index, ours)
    const found: Found[] = [
      ...(own === ours && !byDefault
        ? []
        : byDefault
          ? [findingOf('AXION_ITEM_ON_DEFAULT', { ...facts, theirs: own ?? 'none' })].filter(
              () => own !== ours,
            )
          : [findingOf('AXION_ITEM_TAX_CODE', facts)]),
      ...(item.value.taxable === taxed
        ? []
        : [
            findingOf('AXION_ITEM_FLAG', {
              ...facts,
              theirs: item.value.taxable ? 'taxable' : 'not taxable',
              ours: taxed ? 'taxable' : 'not taxable',
            }),
          ]),
    ]
    return {
      agrees: found.length === 0,
      found,
      remedies: remediesOf(held, { objectId, found, ours, own }),
      words: found.some((f) => f.code !== 'AXION_ITEM_FLAG')
        ? `${byDefault ? 'default ' : ''}${own ?? 'none'}, not ${ours}`
        : found.length > 0
          ? `flagged ${item.value.taxable ? 'taxable' : 'not taxable'}`
          : `${own ?? ours}${byDefault ? ' by default' : ''}`,
      fields: [
        {
          field: 'Item tax code',
          ours,
          theirs: byDefault ? `${own ?? 'none'} by default` : own,
          agrees: own === ours,
        },
        {
          field: 'Taxable',
          ours: taxed ? 'yes' : 'no',
          theirs: item.value.taxable ? 'yes' : 'no',
          agrees: item.value.taxable === taxed,
        },
        { field: 'Code', ours: row.id, theirs: item.value.code, agrees: row.id === item.value.code },
      ],
    }
  },
}

const OWED: Readonly<Partial<Record<Item['kind'], string>>> = {
  'gift-card': 'a gift card',
  deposit: 'a deposit',
}

interface Sold {
  readonly system: string
  readonly what: string
}
const OWED_BY_ITEM = new WeakMap<GridBasis['systems'], Map<string, ReadonlyMap<string, Sold>>>()

/** Items that a system sells and owes until they are redeemed or completed, by the baseline's id. */
function owedIn(systems: GridBasis['systems']): ReadonlyMap<string, Sold> {
  return remembered(
    OWED_BY_ITEM,
    systems,
    'by item',
    () =>
      new Map(
        systems
          .filter(({ held }) => held.row.role !== 'ledger')
          .flatMap(({ held, crosswalk }) =>
            held.items.flatMap((item) => {
              const what = OWED[item.value.kind]
              const match = what && crosswalk.find('item', item.id)
              const id = match && standsFor(match)
              return what && id ? [[id, { system: held.row.name, what }] as const] : []
            }),
          )
          // Where several sell it, the first is named.
          .reverse(),
      ),
  )
}

/** Where what is owed goes by its rule to an account of income in the ledger. */
function owedAsIncome({ index, date, systems }: GridBasis, { id, name, total }: BaselineRow): Found[] {
  const selling = owedIn(systems).get(id)
  if (!selling) return []
  const rule = index.postingRuleFor('revenue', { item: id, 'item-tax-code': total }, date)
  const ledger = systems.find(({ held }) => held.row.role === 'ledger')?.held
  const account = ledger?.accounts.find(({ value }) => value.number === rule?.account)?.value
  if (account?.type !== 'income') return []
  return [
    findingOf('AXION_OWED_AS_INCOME', { name, ...selling, theirs: `${account.number} ${account.name}` }),
  ]
}

/** The baseline's values to the system where it takes them, or the system's code into the baseline. */
function remediesOf(
  { row }: HeldSystem,
  {
    objectId,
    found,
    ours,
    own,
  }: {
    readonly objectId: string
    readonly found: readonly Found[]
    readonly ours: string
    readonly own: string | null
  },
): Remedy[] {
  if (found.length === 0) return []
  return [
    ...(row.about.takes.includes('items')
      ? [{ kind: 'send', align: 'items', systemId: row.system_id, objectId } as const]
      : []),
    ...(own !== null && own !== ours
      ? [{ kind: 'adopt', align: 'items', systemId: row.system_id, objectId } as const]
      : []),
  ]
}

const ITEMS_OF = new WeakMap<HeldSystem, Map<string, ReadonlyMap<string, Held<Item>>>>()

function itemOf(held: HeldSystem, objectId: string): Held<Item> | undefined {
  return remembered(ITEMS_OF, held, 'by id', () => new Map(held.items.map((item) => [item.id, item]))).get(
    objectId,
  )
}

/** The baseline's code that an item of a system stands under there: its own, or the system's default. */
export function codeOf({ itemTaxCode }: Item, { held, crosswalk }: AlignedSystem): string | null {
  const code = itemTaxCode ?? held.row.settings?.defaultItemTaxCode ?? null
  return code === null ? null : (standsFor(crosswalk.find('item-tax-code', code)) ?? code)
}

const UNTAXED: readonly CodeTreatment[] = ['exempt', 'zero-rated', 'out-of-scope']
const TAXED = new WeakMap<BaselineIndex, Map<string, ReadonlySet<string>>>()

/** Whether any jurisdiction taxes a code. */
export function taxedAnywhere(index: BaselineIndex, code: string): boolean {
  return remembered(
    TAXED,
    index,
    'codes',
    () =>
      new Set(
        index.baseline.codeRules
          .filter((rule) => !UNTAXED.includes(rule.treatment))
          .map((rule) => rule.itemTaxCode),
      ),
  ).has(code)
}

function codeName(index: BaselineIndex, code: string): string {
  return index.baseline.itemTaxCodes.find((c) => c.id === code)?.name ?? code
}
