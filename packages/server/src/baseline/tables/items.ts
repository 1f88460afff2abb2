import { currencyDigits, groupBy, multiply, parseDecimal, parsePercent, ratio, type Ratio } from '@axion/core'
import type { Columns } from '../../database/row.ts'
import {
  ALWAYS,
  amountText,
  BEGINNING,
  minorUnits,
  plainOrNull,
  validOf,
  versionId,
  type BaselineTable,
  type Dated,
  type Held,
  type Stated,
} from './table.ts'

export const ITEM_TAX_CODE: BaselineTable<
  Columns<'item_tax_code', 'name'>,
  Stated<'itemTaxCodes'>,
  Held<'itemTaxCodes'>
> = {
  table: 'item_tax_code',
  toRow: ({ code, name }) => ({ objectId: code, ...ALWAYS, values: { name } }),
  toStated: ({ object_id: code, name }) => ({ code, name }),
  toHeld: ({ object_id: id, name }) => ({ id, name }),
}

type ItemRow = Columns<'item', 'name' | 'item_tax_code'>
/** One version of an item: the core has an item with all of its own (itemsOf). */
type ItemVersion = NonNullable<Held<'items'>['codes']>[number] & Held<'items'>

export const ITEM: BaselineTable<ItemRow, Stated<'items'>, ItemVersion> = {
  table: 'item',
  toRow: ({ code, name, itemTaxCode, from, to }) => ({
    objectId: code,
    // An open beginning may be written as the first day of all.
    from: from === BEGINNING ? null : from,
    to,
    values: { name, item_tax_code: itemTaxCode },
  }),
  toStated: ({ object_id: code, name, item_tax_code: itemTaxCode, from, to }) => ({
    code,
    name,
    itemTaxCode,
    from,
    to,
  }),
  toHeld: (row) => ({
    id: row.object_id,
    name: row.name,
    itemTaxCode: row.item_tax_code,
    valid: validOf(row),
  }),
}

/** Items with the codes that they stand under in turn; one that stands under one code at all times has that alone. */
export function itemsOf(versions: readonly ItemVersion[]): Held<'items'>[] {
  return [...groupBy(versions, ({ id }) => id).entries()].map(([id, of]) => {
    const codes = of
      .map(({ itemTaxCode, name, valid }) => ({ itemTaxCode, name, valid }))
      .sort((a, b) => (a.valid.from < b.valid.from ? -1 : 1))
    const last = codes.at(-1)
    const isDated = codes.length > 1 || last?.valid.from !== BEGINNING || last.valid.to !== null
    return {
      id,
      name: last?.name ?? '',
      itemTaxCode: last?.itemTaxCode ?? '',
      ...(isDated ? { codes } : {}),
    }
  })
}

type CodeRuleRow = Columns<
  'code_rule',
  'jurisdiction' | 'item_tax_code' | 'percent' | 'per_unit' | 'recoverable' | 'threshold' | 'cap' | 'currency'
> & {
  readonly treatment: Stated<'codeRules'>['treatment']
  readonly threshold_taxes: 'whole' | 'excess' | null
}

export const CODE_RULE: BaselineTable<CodeRuleRow, Stated<'codeRules'>, Held<'codeRules'>> = {
  table: 'code_rule',
  toRow: ({ jurisdiction, itemTaxCode, perUnit, threshold, cap, currency, from, to, ...rest }) => ({
    objectId: `${jurisdiction} ${itemTaxCode}${currency === null ? '' : ` ${currency}`}`,
    from,
    to,
    values: {
      jurisdiction,
      item_tax_code: itemTaxCode,
      treatment: rest.treatment,
      percent: rest.percent,
      per_unit: perUnit,
      currency,
      recoverable: rest.recoverable,
      threshold_taxes: threshold?.taxes ?? null,
      threshold: threshold && minorUnits(threshold.limit, currency),
      cap: minorUnits(cap, currency),
    },
  }),
  toStated: (row) => ({
    jurisdiction: row.jurisdiction,
    itemTaxCode: row.item_tax_code,
    treatment: row.treatment,
    percent: plainOrNull(row.percent),
    perUnit: plainOrNull(row.per_unit),
    threshold:
      row.threshold === null
        ? null
        : { limit: amountText(row.threshold, row.currency) ?? '', taxes: row.threshold_taxes ?? 'whole' },
    cap: amountText(row.cap, row.currency),
    currency: row.currency,
    recoverable: plainOrNull(row.recoverable),
    ...validOf(row),
  }),
  toHeld: (row) => ({
    id: versionId(row),
    jurisdictionId: row.jurisdiction,
    itemTaxCode: row.item_tax_code,
    treatment: row.treatment,
    currency: row.currency,
    valid: validOf(row),
    percent: row.percent === null ? null : parsePercent(row.percent),
    recoverable: row.recoverable === null ? null : parsePercent(row.recoverable),
    perUnit: row.per_unit === null || row.currency === null ? null : minorPerUnit(row.per_unit, row.currency),
    threshold:
      row.threshold === null ? null : { limit: BigInt(row.threshold), taxes: row.threshold_taxes ?? 'whole' },
    cap: row.cap === null ? null : BigInt(row.cap),
  }),
}

/** Currency for one unit of quantity, as minor units. */
function minorPerUnit(text: string, currency: string): Ratio {
  return multiply(parseDecimal(text), ratio(10n ** BigInt(currencyDigits(currency))))
}

/** There is one set of defaults. */
export const DEFAULTS_ID = 'defaults'

type DefaultsRow = Columns<'agreed_default', 'item_tax_code' | 'parties_taxable'> & {
  readonly new_items: Stated<'defaults'>['newItems']
}

export const AGREED_DEFAULT: BaselineTable<DefaultsRow, Stated<'defaults'>, Held<'defaults'>> = {
  table: 'agreed_default',
  toRow: ({ itemTaxCode, partiesTaxable, newItems }) => ({
    objectId: DEFAULTS_ID,
    ...ALWAYS,
    values: { item_tax_code: itemTaxCode, parties_taxable: partiesTaxable, new_items: newItems },
  }),
  toStated: defaultsOf,
  toHeld: defaultsOf,
}

function defaultsOf(row: DefaultsRow & Dated): Stated<'defaults'> {
  return {
    itemTaxCode: row.item_tax_code,
    partiesTaxable: row.parties_taxable,
    newItems: row.new_items,
  }
}
