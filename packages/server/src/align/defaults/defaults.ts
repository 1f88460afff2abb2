import type { AgreedDefaults, DefaultsView } from '@axion/contract'
import { audit } from '../../audit/audit.ts'
import { importTable, recordedAt } from '../../baseline/import.ts'
import { loadBaseline } from '../../baseline/load.ts'
import { DEFAULTS_ID } from '../../baseline/tables/items.ts'
import type { Books } from '../../database/connection.ts'
import { Problem } from '../../faults/problem.ts'
import { noteSetUp } from '../../setUp/clock.ts'
import { loadHeld } from '../../setUp/held.ts'

/** What new items and customers start with, and what a change of that leaves as it is (D1). */
export async function defaultsView(books: Books): Promise<DefaultsView> {
  const { baseline } = await loadBaseline(books)
  const systems = await loadHeld(books, ['items', 'parties'])
  return {
    ...baseline.defaults,
    codes: baseline.itemTaxCodes.map(({ id, name }) => ({ id, name })),
    items: baseline.items.length,
    parties: baseline.parties.length,
    systems: systems.flatMap(({ row, items, parties }) => {
      const code = row.settings?.defaultItemTaxCode ?? null
      const onDefault = items.filter(({ value }) => value.itemTaxCode === null).length
      return items.length + parties.length === 0
        ? []
        : [
            {
              name: row.name,
              code,
              newPartiesTaxable: row.settings?.newPartiesTaxable ?? null,
              onDefault,
              items: items.length,
              parties: parties.length,
            },
          ]
    }),
  }
}

/** Agrees what new ones start with. Nothing that is there changes by it. @throws AXION_BASELINE_INCONSISTENT */
export async function agreeDefaults(
  books: Books,
  { itemTaxCode, partiesTaxable, newItems }: AgreedDefaults,
): Promise<void> {
  const { baseline } = await loadBaseline(books)
  if (itemTaxCode !== null && !baseline.itemTaxCodes.some(({ id }) => id === itemTaxCode))
    throw new Problem('AXION_BASELINE_INCONSISTENT', { where: 'The default of new items', what: itemTaxCode })
  await importTable(
    books,
    'agreed_default',
    [
      {
        objectId: DEFAULTS_ID,
        from: null,
        to: null,
        values: { item_tax_code: itemTaxCode, parties_taxable: partiesTaxable, new_items: newItems },
      },
    ],
    { at: await recordedAt(books) },
  )
  await audit(books.trx, 'agreed', 'what new items and customers start with', {
    before: baseline.defaults,
    after: {
      itemTaxCode,
      partiesTaxable,
      newItems,
    },
  })
  await noteSetUp(books)
}
