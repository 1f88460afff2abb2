/** a − b of two decimal texts with the same number of places, exactly. */
export function subtract(a: string, b: string): string {
  const places = Math.max(placesOf(a), placesOf(b))
  const difference = units(a, places) - units(b, places)
  const size = (difference < 0n ? -difference : difference).toString().padStart(places + 1, '0')
  const text = places === 0 ? size : `${size.slice(0, -places)}.${size.slice(-places)}`
  return difference < 0n ? `-${text}` : text
}

function placesOf(text: string): number {
  return text.split('.')[1]?.length ?? 0
}

function units(text: string, places: number): bigint {
  const [whole = '0', fraction = ''] = text.replace('-', '').split('.')
  const size = BigInt(whole + fraction.padEnd(places, '0'))
  return text.startsWith('-') ? -size : size
}
