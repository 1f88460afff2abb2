import type { Committed, Evidence } from '@axion/contract'
import { formatAmount, parseAmount, sum } from '@axion/core'
import type { Books } from '../../database/connection.ts'
import { readCommitted, type CommittedRow } from '../../proof/committed.ts'
import { connectedSystems } from '../../setUp/held.ts'
import type { UnitRow } from './parts.ts'

type KeptOf = Extract<Evidence, { readonly kind: 'chain' }>['kept']

/** What a service keeps in all, as it states it, in the document's own currency. */
export function keptTax({ taxes, currency }: Pick<Committed, 'taxes' | 'currency'>): string {
  return formatAmount(sum(taxes.map(({ tax }) => parseAmount(tax, currency))), currency)
}

/** What tax services keep of a document now, one line each that it keeps; a service that computes for its system and keeps nothing is told as well. */
export async function keptOf(books: Books, unit: UnitRow): Promise<KeptOf> {
  const systems = await connectedSystems(books)
  const nameOf = (id: string): string => systems.find((one) => one.system_id === id)?.name ?? id
  const said = (row: CommittedRow): KeptOf[number] => {
    const value = JSON.parse(row.value) as Committed
    const { currency, webAddress } = value
    return {
      system: nameOf(row.system_id),
      cancelled: row.status === 'cancelled',
      amount: keptTax(value),
      currency,
      address: webAddress,
    }
  }
  if (unit.document_id === null) {
    const rows = (await books
      .trx('committed_document')
      .where({ entity_id: books.entityId, system_id: unit.system_id, committed_id: unit.entry_id ?? '' })
      .select('*', books.trx.raw('value::text as value'))) as CommittedRow[]
    return rows.map(said)
  }
  const { services, rows } = await readCommitted(books, [
    { document_id: unit.document_id, number: unit.number },
  ])
  return services
    .filter(({ source_id: of }) => of === unit.system_id)
    .flatMap(({ service_id: id, alone }): KeptOf => {
      const own = rows.filter(
        (row) => row.system_id === id && row.kind === unit.kind && (row.source_document !== null || alone),
      )
      return own.length > 0
        ? own.map(said)
        : [{ system: nameOf(id), cancelled: false, amount: null, currency: unit.currency, address: null }]
    })
}
