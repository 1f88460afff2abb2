/** Tests any bridge against docs/bridge.md, over HTTP alone. */
export { checkBridge, type Result } from './check.ts'
