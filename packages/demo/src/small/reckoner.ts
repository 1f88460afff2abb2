import type { SystemData } from '../shared/sale.ts'

/** What a billing system's bridge hands out of a document, as far as a tax service is told of it. */
export interface Charged {
  readonly id: string
  readonly value: Readonly<Record<string, unknown>> & {
    readonly number: string
    readonly documentDate: string
    readonly taxes: readonly { readonly tax: string; readonly components: unknown }[]
  }
}

/** What a service was told wrongly, or never: in September, of the first documents that bear tax. */
const MISHAPS: readonly ((kept: Kept) => Kept | null)[] = [
  // It was told before a line was added.
  ({ taxes, ...kept }) => ({
    ...kept,
    taxes: taxes.map((one, at) => (at === 0 ? { ...one, tax: less(one.tax), components: null } : one)),
  }),
  // The connection was down when it was billed.
  () => null,
  // Somebody cancelled it there by hand.
  (kept) => ({ ...kept, status: 'cancelled' }),
]
type Kept = Readonly<Record<string, unknown>> & Pick<Charged['value'], 'taxes'>

/** A dollar and a quarter less, and never less than nothing. */
function less(tax: string): string {
  const units = BigInt(tax.replace('.', '')) - 125n
  const text = (units < 0n ? 0n : units).toString().padStart(3, '0')
  return `${text.slice(0, -2)}.${text.slice(-2)}`
}

/** A tax service that computes for a billing system: its agencies and rates, what it was told of, and one document that is nobody's. */
export function reckonerOf({ settings, objects }: SystemData, charged: readonly Charged[]): SystemData {
  let mishap = 0
  const kept = charged.flatMap(({ id, value }) => {
    const { number, kind, documentDate, currency, exchangeRate, taxes } = value
    const whole: Kept = {
      ...{ number, kind, documentId: id, status: 'committed', documentDate, currency, exchangeRate, taxes },
      webAddress: null,
    }
    const isTold = documentDate < '2026-09' || taxes.length === 0
    const told = isTold ? whole : (MISHAPS[mishap++] ?? ((one: Kept) => one))(whole)
    return told === null ? [] : [{ resource: 'committed', id: `kept_${id}`, value: told as object }]
  })
  const [first] = kept
  const nobodys = first && {
    ...first,
    id: 'kept_trial',
    value: { ...first.value, number: 'TRIAL-1', documentId: 'trial_1', documentDate: '2026-09-02' },
  }
  return {
    settings,
    objects: [
      ...objects.filter(({ resource }) => ['agencies', 'tax-rates'].includes(resource)),
      ...kept,
      ...(nobodys ? [nobodys] : []),
    ],
  }
}
