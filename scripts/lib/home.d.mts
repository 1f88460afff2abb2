export const ROOT: string
export const HOME: string
export const DEMO_TODAY: string
export function fail(line: string): never
export function portSetting(): number
export function secrets(home?: string): Record<string, string>
export function freePort(): Promise<number>
export function isFree(port: number): Promise<boolean>
export function noteBegun(home: string, how: { readonly demo: boolean; readonly external: boolean }): void
/** Whether a data folder is a copy that was brought back. */
export function wasBroughtBack(home: string): boolean
export function notePlace(home: string): void
