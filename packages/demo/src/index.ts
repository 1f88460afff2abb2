/** The sample entities: made-up people, places and businesses, from a seed. Nothing here is known to the application. */
export { baseline } from './larkspur/baseline.ts'
export { billingData, ledgerData, type SystemData } from './larkspur/systems.ts'
export { RATES, AGENCIES, PLACES } from './larkspur/places.ts'
