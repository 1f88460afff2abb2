/** How figures are written. */

export const say = (text: string): boolean => process.stdout.write(`${text}\n`)
export const ratio = (a: number, b: number): string => `${(a / b).toFixed(a / b < 10 ? 1 : 0)}×`
export const ms = (n: number): string => (n < 10 ? n.toFixed(1) : String(Math.round(n)))
export const whole = (n: number): string => n.toLocaleString('en-US')
export const section = (title: string, text: string): string => `## ${title}\n${text.trim()}\n`

/** The value that so large a share of all is within. */
export const share = (all: readonly number[], part: number): number =>
  [...all].sort((a, b) => a - b)[Math.min(Math.floor(all.length * part), all.length - 1)] ?? 0

interface Held {
  readonly process: string
  readonly mebibytes: number
}

/** @param tenth the same of a business a tenth as large, where there was one */
export function memoryTable(most: readonly Held[], tenth: readonly Held[] | null = null): string {
  const before = new Map(tenth?.map(({ process, mebibytes }) => [process, mebibytes]))
  return `The most memory that each process held at once, what it shares with others divided among them${tenth ? ', and the same at a tenth of the size' : ''}:

| process | MiB |${tenth ? ' at a tenth |' : ''}
|---|---:|${tenth ? '---:|' : ''}
${most.map(({ process, mebibytes }) => `| ${process} | ${mebibytes} |${tenth ? ` ${before.get(process) ?? '–'} |` : ''}`).join('\n')}`
}
