/** The edges: the bridge contract and the application's API, from which validation, types and documents come. */
export * from './bridge/shapes.ts'
export * from './bridge/decode.ts'
export * from './api/baseline.ts'
export * from './sentences/catalogue.ts'
export * from './api/remedy.ts'
export * from './api/evidence.ts'
export type * from './api/views.ts'
export * from './sentences/causes.ts'
