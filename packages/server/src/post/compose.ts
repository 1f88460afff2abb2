import type { BookingRequest } from '@axion/contract'
import {
  composeJournal,
  formatAmount,
  sum,
  type BaselineIndex,
  type ChargedTax,
  type Facts,
  type Finding,
  type Journal,
} from '@axion/core'
import { externalIdOf } from '../documents/ids.ts'
import { type SourceUnit } from '../documents/units.ts'
import type { HeldSystem } from '../setUp/held.ts'
import { foretold } from './foretell.ts'
import type { Remark } from './remark.ts'
import { rateName, requestOf } from './request.ts'

export interface Composed {
  readonly externalId: string
  readonly journal: Journal | null
  readonly request: BookingRequest | null
  readonly remarks: readonly Remark[]
  readonly tax: bigint
  readonly total: bigint
}

/**
 * The booking of a source document: its expected journal, and the request that the ledger gets.
 * A rate that is not linked goes by the name it has at the source: the ledger then decides whether it knows it.
 */
export function composeBooking(
  entityId: string,
  source: SourceUnit,
  {
    from,
    ledger,
    index,
  }: { readonly from: HeldSystem; readonly ledger: HeldSystem; readonly index: BaselineIndex },
): Composed {
  const { decoded, document, determination, stored } = source
  const charged = decoded.taxes.map((tax): ChargedTax => ({
    rateName: rateName(from, tax.taxRateId),
    combinedRateId: from.combinedRateOf(tax.taxRateId),
    tax: tax.tax,
    components:
      tax.components?.map((c) => ({
        agencyId: from.agencyOf(c.agencyId),
        agencyName: from.agencies.find((a) => a.id === c.agencyId)?.value.name ?? c.agencyId,
        tax: c.tax,
      })) ?? null,
  }))
  const composed = composeJournal(document, charged, determination, index)
  const requested = composed.journal
    ? requestOf(entityId, {
        source,
        from,
        ledger,
        journal: composed.journal,
        parts: composed.parts,
        index,
      })
    : { blocked: [], request: null }
  const remarks = [
    ...[...composed.blocked, ...requested.blocked].map(({ code, facts }) => ({ code, facts, blocks: true })),
    ...composed.warnings.map(({ code, facts }) => ({ code, facts: inWords(code, facts), blocks: false })),
    ...(requested.request && composed.journal
      ? foretold(requested.request, composed.journal, ledger, index)
      : []),
  ]
  return {
    externalId: externalIdOf(entityId, stored.system_id, stored.document_id, decoded.kind),
    journal: requested.blocked.length === 0 ? composed.journal : null,
    request: requested.blocked.length === 0 ? requested.request : null,
    remarks,
    tax: sum(decoded.taxes.map((t) => t.tax)),
    total: decoded.total,
  }
}

function inWords(code: Finding['code'], facts: Facts): Facts {
  const { currency = 'USD', stated, expected } = facts
  if (code !== 'AXION_STATED_NOT_EXPECTED' || stated === undefined || expected === undefined) return facts
  return {
    ...facts,
    stated: formatAmount(BigInt(stated), currency),
    expected: formatAmount(BigInt(expected), currency),
  }
}
