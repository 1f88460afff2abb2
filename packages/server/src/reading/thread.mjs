import { register } from 'tsx/esm/api'

/** A thread's beginning: it reads TypeScript as the programs do, which a thread does not take over from them. */
register()
export const { page, changes } = await import('./thread.ts')
