import { describe, expect, it } from 'vitest'
import { billingData, ledgerData, PLACES } from './index.ts'

const month = (seed: number): ReturnType<typeof billingData> => billingData(seed, '2026-09', 'http://127.0.0.1:4101/billing/desk')
interface Drawn { readonly number: string; readonly documentDate: string; readonly lines: readonly { readonly net: string; readonly taxRateId: string | null }[] }
const documents = (seed: number): Drawn[] => month(seed).objects.filter((o) => o.resource === 'documents').map((o) => o.value as Drawn)

describe('Larkspur Apiary Supply', () => {
  it('is the same bytes for the same seed, and others for another', () => {
    expect(JSON.stringify(month(7))).toBe(JSON.stringify(month(7)))
    expect(JSON.stringify(month(7))).not.toBe(JSON.stringify(month(8)))
    expect(JSON.stringify(ledgerData())).toBe(JSON.stringify(ledgerData()))
  })

  it('makes one month of about 150 invoices, in order, with one hand-typed rate, whatever the seed', () => {
    for (const seed of [1, 2026, 77]) {
      const all = documents(seed)
      expect(all.length).toBe(PLACES.reduce((sum, place) => sum + place.invoices, 0))
      expect(all.map((d) => d.documentDate)).toEqual(all.map((d) => d.documentDate).sort())
      expect(all.every((d) => d.documentDate.startsWith('2026-09-'))).toBe(true)
      expect(all.filter((d) => d.lines.some((l) => l.taxRateId === 'rate_typed'))).toHaveLength(1)
      expect(new Set(all.map((d) => d.number)).size).toBe(all.length)
    }
  })
})
