import type { Departure } from '@axion/contract'
import { formatAmount } from '@axion/core'
import type { Books } from '../../database/connection.ts'
import { voicesInBase } from '../../proof/voices.ts'
import type { Parts } from './parts.ts'

/** Sums of one voice: in the document's currency and the books'. */
interface Sums {
  readonly own: bigint
  readonly inBase: bigint
}
/** "expected tax HCT|2212" */
type Place = `${'stated' | 'expected'} ${'tax' | 'net'} ${string}`

/**
 * Where what is worked out now, from what was recorded when the unit was determined, comes to something else than the stored facts:
 * another version of the computation, or rows that something else wrote.
 */
export async function departuresOf(
  { trx, entityId }: Books,
  { unit, source, index, currency, baseCurrency }: Parts,
): Promise<Departure[]> {
  if (!source) return []
  const worked = new Map<Place, Sums>()
  const add = (place: Place, own: bigint, inBase: bigint): void => {
    const before = worked.get(place)
    worked.set(place, { own: own + (before?.own ?? 0n), inBase: inBase + (before?.inBase ?? 0n) })
  }
  const { stated, expected, document } = source
  for (const { voice, of, inBase } of voicesInBase({ stated, expected, booked: null }, document.exchange)) {
    if (voice === 'booked') continue
    of.facts.forEach((fact, at) =>
      add(`${voice} tax ${fact.agency ?? ''}|${fact.account ?? ''}`, fact.tax, inBase.facts[at] ?? 0n),
    )
    of.nets.forEach((net, at) => add(`${voice} net |${net.account ?? ''}`, net.net, inBase.nets[at] ?? 0n))
  }
  const { rows } = (await trx.raw(
    `select voice || ' tax ' || coalesce(agency, '') || '|' || coalesce(account, '') as place, sum(tax)::text as own, sum(in_base)::text as base from tax_fact where entity_id = :e and unit_id = :u and voice <> 'booked' group by 1
     union all select voice || ' net |' || coalesce(account, ''), sum(net)::text, sum(in_base)::text from net_fact where entity_id = :e and unit_id = :u and voice <> 'booked' group by 1`,
    { e: entityId, u: unit.unit_id },
  )) as { rows: { place: Place; own: string; base: string }[] }
  const stored = new Map(rows.map((row) => [row.place, { own: BigInt(row.own), inBase: BigInt(row.base) }]))
  const NIL: Sums = { own: 0n, inBase: 0n }
  return [...new Set([...worked.keys(), ...stored.keys()])].flatMap((place): Departure[] => {
    const [was, is] = [stored.get(place) ?? NIL, worked.get(place) ?? NIL]
    const [voice = '', kind = ''] = place.split(' ')
    const where = place.slice(`${voice} ${kind} `.length)
    const [id = '', account = ''] = where.split('|')
    const agency = index.agency(id)?.name ?? id
    const said = { voice, kind, agency, account } as Pick<Departure, 'voice' | 'kind' | 'agency' | 'account'>
    if (was.own !== is.own)
      return [
        {
          ...said,
          currency,
          stored: formatAmount(was.own, currency),
          worked: formatAmount(is.own, currency),
        },
      ]
    if (was.inBase !== is.inBase)
      return [
        {
          ...said,
          currency: baseCurrency,
          stored: formatAmount(was.inBase, baseCurrency),
          worked: formatAmount(is.inBase, baseCurrency),
        },
      ]
    return []
  })
}
