/** Tests any bridge against docs/bridge.md, over HTTP alone. */
export { checkBridge } from './check.ts'
export type { Result } from './report.ts'
