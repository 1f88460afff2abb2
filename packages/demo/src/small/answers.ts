import { halfUp, millionths, spread } from '../shared/exact.ts'
import { rightTax, type Answer } from '../shared/key.ts'
import type { Rate } from '../shared/sale.ts'
import { salesOf, type SmallEntity } from './entity.ts'
import { purchasingOf } from './systems.ts'

/** What of a month's purchases can be had back, by number and agency, as the generator knows it: shares in whole percents. */
export function recoveredOf(entity: SmallEntity, seed: number): Map<string, bigint> {
  const [system] = purchasingOf(entity, seed)
  const { bought } = entity
  const share = new Map(
    entity.codeRules
      .filter((rule) => rule.jurisdiction === bought?.place.country)
      .map((rule) => [rule.itemTaxCode, BigInt(rule.recoverable ?? '0')]),
  )
  const all = new Map<string, bigint>()
  for (const { resource, value } of system?.data.objects ?? []) {
    if (resource !== 'documents') continue
    const { number, lines } = value as {
      number: string
      lines: { itemCode: string; amount: string; taxRateId: string | null }[]
    }
    // A rate's tax is rounded once on the document, and goes over its lines; shares are taken of what falls on each.
    const shares = new Map<bigint, bigint>()
    for (const rate of new Set(lines.flatMap((line) => line.taxRateId ?? []))) {
      const own = lines.filter((line) => line.taxRateId === rate)
      const bases = own.map((line) => BigInt(line.amount.replace('.', '')))
      const percent = millionths(
        entity.rates.find((one) => `buy_${one.code}` === rate)?.components[0]?.percent ?? '0',
      )
      spread(halfUp(bases.reduce((sum, base) => sum + base, 0n) * percent, 100000000n), bases).forEach(
        (tax, at) => {
          const of =
            share.get(bought?.items.find((one) => one.code === own[at]?.itemCode)?.taxCode ?? '') ?? 0n
          shares.set(of, (shares.get(of) ?? 0n) + tax)
        },
      )
    }
    all.set(
      number,
      [...shares].reduce((sum, [of, tax]) => sum + halfUp(tax * of, 100n), 0n),
    )
  }
  return all
}

/** The answer key: what the ledger should hold of each invoice in the end. The application never reads it. */
export function answersOf(entity: SmallEntity, seed: number): Answer[] {
  const rateOf = (code: string): Rate =>
    entity.rates.find((rate) => rate.code === code) ??
    (() => {
      throw new Error(`no rate ${code}`)
    })()
  return salesOf(entity, seed).map((sale, at) => ({
    number: `${entity.prefix}-${1001 + at}`,
    currency: sale.currency,
    ...rightTax(sale, rateOf),
  }))
}
