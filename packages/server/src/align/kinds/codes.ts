import { groupBy, type BaselineIndex } from '@axion/core'
import type { HeldSystem } from '../../setUp/held.ts'
import type { KindOfSetUp } from './kind.ts'

/** Item tax codes beside those that stand on a system's items. */
export const CODES: KindOfSetUp = {
  kind: 'codes',
  link: 'item-tax-code',
  resource: 'items',
  rows: ({ index }) => {
    const items = groupBy(index.baseline.items, (item) => item.itemTaxCode)
    return index.baseline.itemTaxCodes.map((code) => ({
      id: code.id,
      name: code.name,
      group: code.id,
      detail: treatmentsOf(index, code.id),
      total: `${items.get(code.id)?.length ?? 0} items`,
    }))
  },
  needs: () => false,
  matters: () => true,
  says: (held, code) => bearers(held, code),
  about: () => [],
  compare: (_, row, objectId, { held }) => {
    return {
      agrees: true,
      words: bearers(held, objectId),
      found: [],
      remedies: [],
      fields: [{ field: 'Code', ours: row.id, theirs: objectId, agrees: row.id === objectId }],
    }
  },
}

/** How many items of a system bear a code, or stand on it. */
function bearers({ row, items }: HeldSystem, code: string): string {
  const bearing = items.filter((item) => item.value.itemTaxCode === code).length
  const byDefault =
    row.settings?.defaultItemTaxCode === code
      ? items.filter((item) => item.value.itemTaxCode === null).length
      : 0
  return `${bearing} ${bearing === 1 ? 'item' : 'items'}${byDefault > 0 ? `, ${byDefault} by default` : ''}`
}

/** How the regions treat a code, each treatment once. */
function treatmentsOf(index: BaselineIndex, code: string): string {
  const of = groupBy(
    index.baseline.codeRules.filter((rule) => rule.itemTaxCode === code),
    (rule) => rule.treatment,
  )
  return (
    [...of]
      .map(
        ([treatment, rules]) =>
          `${treatment.replaceAll('-', ' ')} in ${[...new Set(rules.map((r) => r.jurisdictionId))].join(', ')}`,
      )
      .join('; ') || 'no rule'
  )
}
