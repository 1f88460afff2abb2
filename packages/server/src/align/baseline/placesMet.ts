import { DOCUMENT, say, type PlacesMet } from '@axion/contract'
import { describe, placeOf } from '@axion/core'
import type { Books } from '../../database/connection.ts'
import { familiesOf } from '../../documents/families.ts'
import { newestDocuments, storedOf } from '../../documents/newest.ts'
import { taxDocumentOf } from '../../documents/units.ts'
import { groundsOf } from '../../proof/grounds.ts'

/** So many documents, the newest, are asked where they went; and so many places are listed. */
const [MOST, LISTED] = [2000, 100]

/** Places that sales went to, of which the baseline leaves open where they lie: no jurisdiction, two of a level, or a +4 that is needed. */
export async function placesMet(books: Books): Promise<PlacesMet> {
  const { newest, of } = await newestDocuments(books, MOST)
  const stored = await storedOf(books, newest)
  const families = await familiesOf(books, stored)
  const { systems, index, currency } = await groundsOf(books)
  const met = new Map<string, { says: string; address: string; documents: number }>()
  for (const one of stored) {
    const system = systems.find(({ row }) => row.system_id === one.system_id)
    if (!system || DOCUMENT[one.kind].purchase) continue
    const { shipTo } = taxDocumentOf(one, system, { index, currency }, families(one)).document
    const address = describe(shipTo)
    for (const { code, facts } of placeOf(shipTo, index.baseline.jurisdictions).findings) {
      const { says } = say(code, facts)
      const known = met.get(says)
      if (known) known.documents += 1
      else met.set(says, { says, address, documents: 1 })
    }
  }
  const open = [...met.values()].sort((a, b) => b.documents - a.documents || (a.address < b.address ? -1 : 1))
  return {
    documents: stored.length,
    of,
    open: open.slice(0, LISTED),
    more: Math.max(0, open.length - LISTED),
  }
}
