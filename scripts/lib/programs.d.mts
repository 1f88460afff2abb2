/** What Node is told to run one of our programs, by its source: what is built of it, built now where sources changed; any other as it is written. */
export function told(file: string): string[]
