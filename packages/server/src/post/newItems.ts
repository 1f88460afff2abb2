import { decodeDocument } from '@axion/contract'
import { groupBy, type BaselineIndex } from '@axion/core'
import { audit } from '../audit/audit.ts'
import { introduce } from '../baseline/revise.ts'
import type { Books } from '../database/connection.ts'
import type { StoredDocument } from '../documents/units.ts'
import type { Grounds } from '../proof/grounds.ts'
import { noteSetUp } from '../setUp/clock.ts'
import { loadHeld, type HeldSystem } from '../setUp/held.ts'
import { type Step, recordBatch } from '../setUp/steps.ts'
import type { Remark } from './remark.ts'

/** An item that a document names and the baseline lacks, as a posting takes it in. */
interface NewItem {
  readonly id: string
  readonly name: string
  readonly itemTaxCode: string
  readonly system: string
}

/** By document, as `system/document`. */
export type NewItems = ReadonlyMap<string, readonly NewItem[]>

/**
 * What a posting of documents would take into the baseline, where it was chosen that it does (C5): each item under the code that its system
 * gives it, else under the agreed default. What stands under a code that nobody agreed upon, or under none, is left open.
 */
export async function newItemsOf(grounds: Grounds, documents: readonly StoredDocument[]): Promise<NewItems> {
  const { index } = grounds
  if (index.baseline.defaults.newItems === 'left-open') return new Map()
  const systems = await loadHeld(grounds, ['items'])
  const bySystem = new Map(
    systems.map((system) => [
      system.row.system_id,
      { system, held: new Map(system.items.map(({ value }) => [value.code, value])) },
    ]),
  )
  return agreedOn(
    new Map(
      documents.flatMap((stored) => {
        const of = bySystem.get(stored.system_id)
        const items = new Map(
          !of
            ? []
            : decodeDocument(stored.value).lines.flatMap(({ itemCode, description }) => {
                if (
                  itemCode === null ||
                  !/^\S{1,60}$/.test(itemCode) ||
                  of.system.itemOf(itemCode) !== itemCode ||
                  index.itemTaxCodeOf(itemCode) !== undefined
                )
                  return []
                const held = of.held.get(itemCode)
                const itemTaxCode = codeFor(held?.itemTaxCode ?? null, of.system, index)
                return itemTaxCode === null
                  ? []
                  : [
                      [
                        itemCode,
                        {
                          id: itemCode,
                          name: (held?.name ?? description).slice(0, 200) || itemCode,
                          itemTaxCode,
                          system: of.system.row.name,
                        },
                      ] as const,
                    ]
              }),
        )
        return items.size === 0
          ? []
          : [[`${stored.system_id}/${stored.document_id}`, [...items.values()]] as const]
      }),
    ),
  )
}

/** Those that every system has under the same code: where two disagree, nobody can tell which is right, and the item is left open. */
export function agreedOn(items: NewItems): NewItems {
  const codes = new Map(
    [...groupBy([...items.values()].flat(), ({ id }) => id)].map(([id, same]) => [
      id,
      new Set(same.map(({ itemTaxCode }) => itemTaxCode)).size,
    ]),
  )
  return new Map(
    [...items]
      .map(([document, own]) => [document, own.filter(({ id }) => codes.get(id) === 1)] as const)
      .filter(([, own]) => own.length > 0),
  )
}

function codeFor(own: string | null, system: HeldSystem, { baseline }: BaselineIndex): string | null {
  const wanted = own === null ? baseline.defaults.itemTaxCode : (system.linkOf('item-tax-code', own) ?? own)
  return baseline.itemTaxCodes.some(({ id }) => id === wanted) ? wanted : null
}

/** Takes them in: each stands in the trail, and all of them can be taken back at once. */
export async function takeInItems(books: Books, items: NewItems, person: string): Promise<void> {
  const each = [...groupBy([...items.values()].flat(), ({ id }) => id).values()].flatMap((same) =>
    same.slice(0, 1),
  )
  const steps: Step[] = []
  for (const { id, name, itemTaxCode, system } of each) {
    steps.push({
      did: 'revised',
      ...(await introduce(books, {
        table: 'item',
        objectId: id,
        values: { name, item_tax_code: itemTaxCode },
        from: null,
      })),
    })
    await audit(books.trx, 'taken-in', `${system}: ${name}`, {
      after: {
        Code: id,
        Name: name,
        'Item tax code': itemTaxCode,
        by: 'a posting',
      },
    })
  }
  await recordBatch(
    books,
    {
      person,
      action: 'take-in',
      says: `${each.length === 1 ? (each[0]?.name ?? '') : `${each.length} items`}, by a posting`,
    },
    steps,
  )
  if (steps.length > 0) await noteSetUp(books)
}

/** What is said of it beside each document. */
export function remarksOf(
  items: readonly NewItem[],
  { baseline }: BaselineIndex,
  { number, taken }: { readonly number: string; readonly taken: boolean },
): Remark[] {
  return items.map(({ name, itemTaxCode }): Remark => ({
    code: taken ? 'AXION_ITEM_TAKEN_IN' : 'AXION_ITEM_TO_TAKE_IN',
    blocks: false,
    facts: {
      item: name,
      document: number,
      under: baseline.itemTaxCodes.find(({ id }) => id === itemTaxCode)?.name ?? itemTaxCode,
    },
  }))
}
