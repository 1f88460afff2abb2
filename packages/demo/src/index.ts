/** The sample entities: made-up people, places and businesses, from a seed. Nothing here is known to the application. */
export { baseline } from './larkspur/baseline.ts'
export { answers, billingData, ledgerData } from './larkspur/systems.ts'
export { otherSystems, type OtherSystem } from './larkspur/others.ts'
export { RATES, AGENCIES, PLACES } from './larkspur/places.ts'
export { saltmarshBaseline, saltmarshBilling, saltmarshLedger } from './saltmarsh/saltmarsh.ts'
export type { Answer } from './shared/key.ts'
export type { SystemData } from './shared/sale.ts'
export { SEED } from './seed.ts'
