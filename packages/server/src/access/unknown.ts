/** What somebody may ask for of whom nothing is known: so often from one address. */
export const SELDOM = { max: 10, timeWindow: '1 minute' } as const
/** And may send, in bytes. */
export const LITTLE = 4096
