/** Sums of decimal texts, exactly: amounts stay text on a page. */

/** a − b. */
export function subtract(a: string, b: string): string {
  return combined(a, b, -1n)
}

/** The sum of amounts of one currency: "1.10" and "2.05" are "3.15". */
export function addAmounts(amounts: readonly string[]): string {
  return amounts.reduce((sum, amount) => combined(sum, amount, 1n), '0')
}

/** Whether the size of a is more than the size of b. */
export function exceeds(a: string, b: string): boolean {
  const size = (text: string): string => text.replace('-', '')
  return combined(size(b), size(a), -1n).startsWith('-')
}

function combined(a: string, b: string, sign: bigint): string {
  const places = Math.max(placesOf(a), placesOf(b))
  const total = units(a, places) + sign * units(b, places)
  const size = (total < 0n ? -total : total).toString().padStart(places + 1, '0')
  const text = places === 0 ? size : `${size.slice(0, -places)}.${size.slice(-places)}`
  return total < 0n ? `-${text}` : text
}

function placesOf(text: string): number {
  return text.split('.')[1]?.length ?? 0
}

function units(text: string, places: number): bigint {
  const [whole = '0', fraction = ''] = text.replace('-', '').split('.')
  const size = BigInt(whole + fraction.padEnd(places, '0'))
  return text.startsWith('-') ? -size : size
}
