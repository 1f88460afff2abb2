import { drawing } from '../shared/draw.ts'
import type { SystemData } from '../shared/sale.ts'
import { moneyOf } from './money.ts'
import type { MoneyException } from './paid.ts'
import { methodsOf, untaxed, type OtherSystem } from './otherParts.ts'
import { tills } from './tills.ts'
import { shop } from './shop.ts'
import { buying } from './buying.ts'

/** Point of sale, web shop, purchasing, two processors and the bank, from the seed. */
export function otherSystems(seed: number): readonly OtherSystem[] {
  const draw = drawing(seed + 1)
  const [pos, commerce, purchasing] = [tills(draw), shop(draw), buying(draw)]
  const { brook, tarn, bank } = moneyOf(pos, commerce)
  return [
    { id: 'pos', role: 'pos', name: 'Tills', data: pos },
    { id: 'commerce', role: 'commerce', name: 'Web shop', data: commerce },
    { id: 'purchasing', role: 'purchasing', name: 'Purchasing', data: purchasing },
    {
      id: 'payments',
      role: 'payments',
      name: 'Brook',
      data: untaxed([...methodsOf([['brk_card', 'Cards at the till', 'card']]), ...brook.objects]),
    },
    {
      id: 'payments-web',
      role: 'payments',
      name: 'Tarn Pay',
      data: untaxed([...methodsOf([['trn_card', 'Cards on the web', 'card']]), ...tarn.objects]),
    },
    { id: 'bank', role: 'bank', name: 'Bank', data: untaxed(bank.objects) },
  ]
}

/** The answer key of what moved: where it is not what was sold. The application never reads this, and its form may still change. */
export function moneyExceptions(seed: number): readonly MoneyException[] {
  const systems = otherSystems(seed)
  const of = (id: string): SystemData => systems.find((system) => system.id === id)?.data ?? untaxed([])
  return moneyOf(of('pos'), of('commerce')).exceptions
}
