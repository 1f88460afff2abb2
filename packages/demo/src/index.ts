/** The sample entities: made-up people, places and businesses, from a seed. Nothing here is known to the application. */
export { baseline } from './larkspur/baseline.ts'
export { answers, billingData, ledgerData } from './larkspur/systems.ts'
export type { MoneyException } from './larkspur/paid.ts'
export type { OtherSystem } from './larkspur/otherParts.ts'
export { moneyExceptions, otherSystems } from './larkspur/others.ts'
export { disagreements, type Disagreement } from './larkspur/disagreements.ts'
export { DEPARTMENTS, METHODS, OLD_CARD, OUTLETS } from './larkspur/house.ts'
export { RATES, AGENCIES, PLACES } from './larkspur/places.ts'
export { answersOf, recoveredOf } from './small/answers.ts'
export { baselineOf, type SmallEntity } from './small/entity.ts'
export { billingOf, ledgerOf, purchasingOf } from './small/systems.ts'
export { FERNHOLLOW, FERNHOLLOW_AMOUNTS } from './small/fernhollow.ts'
export { QUILLON } from './small/quillon.ts'
export { SALTMARSH } from './small/saltmarsh.ts'
export type { Answer } from './shared/key.ts'
export type { SystemData } from './shared/sale.ts'
export { SEED } from './seed.ts'
export {
  business,
  type Business,
  type Held as MadeObject,
  type MadeSystem,
  type Truth,
} from './madeup/business.ts'
export { COUNTRY, percentOn } from './madeup/land.ts'
