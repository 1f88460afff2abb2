export { samplesOf, type Sample } from './samples.ts'
export { writeBridge, type From } from './write.ts'
export { filesOf } from './tablesOf.ts'
