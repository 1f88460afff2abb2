import { escape, field, form, select, table } from '../shared/desk.ts'
import type { BillingItem } from './billing.ts'

export function itemsSection(base: string, items: readonly { id: string; value: BillingItem }[]): string {
  const rows = items.map(({ id, value }) => [
    escape(value.code),
    form(
      `${base}/desk/items`,
      `<input type="hidden" name="id" value="${escape(id)}">${field('name', value.name, `Name of ${value.code}`, 'size="24"')} ${field('code', value.itemTaxCode ?? '', `Tax code of ${value.code}`, 'size="10" placeholder="the default"')} ${select(
        'taxable',
        `Whether ${value.code} is taxable`,
        [
          ['yes', 'taxable'],
          ['no', 'not taxable'],
        ],
        value.taxable ? 'yes' : 'no',
      )}`,
      `Set ${value.code}`,
    ),
  ])
  return `<section id="items"><h2>Items</h2>${table(['Code', 'Name, tax code, flag'], rows)}</section>`
}

export function partiesSection(
  base: string,
  parties: readonly {
    id: string
    value: { name: string; exemption: { reason: string; certificate: string | null } | null }
  }[],
): string {
  const rows = parties.map(({ id, value }) => [
    escape(value.name),
    form(
      `${base}/desk/parties`,
      `<input type="hidden" name="id" value="${escape(id)}">${field('reason', value.exemption?.reason ?? '', `Exemption of ${value.name}`, 'size="8" placeholder="taxable"')} ${field('certificate', value.exemption?.certificate ?? '', `Certificate of ${value.name}`, 'size="10" placeholder="no certificate"')}`,
      'Set',
    ),
  ])
  return `<section id="parties"><h2>Customers</h2>${table(['Name', 'Exempt for, under certificate'], rows)}</section>`
}
