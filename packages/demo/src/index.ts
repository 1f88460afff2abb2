/** The sample entities: made-up people, places and businesses, from a seed. Nothing here is known to the application. */
export { baseline } from './larkspur/baseline.ts'
export { answers, billingData, ledgerData } from './larkspur/systems.ts'
export type { MoneyException } from './larkspur/money.ts'
export { moneyExceptions, otherSystems, type OtherSystem } from './larkspur/others.ts'
export { disagreements, type Disagreement } from './larkspur/disagreements.ts'
export { DEPARTMENTS, METHODS, OLD_CARD, OUTLETS } from './larkspur/house.ts'
export { RATES, AGENCIES, PLACES } from './larkspur/places.ts'
export {
  answersOf,
  baselineOf,
  billingOf,
  ledgerOf,
  purchasingOf,
  recoveredOf,
  type SmallEntity,
} from './small/entity.ts'
export { FERNHOLLOW, FERNHOLLOW_AMOUNTS } from './small/fernhollow.ts'
export { QUILLON } from './small/quillon.ts'
export { SALTMARSH } from './small/saltmarsh.ts'
export type { Answer } from './shared/key.ts'
export type { SystemData } from './shared/sale.ts'
export { SEED } from './seed.ts'
