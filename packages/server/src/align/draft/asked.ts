import type { AskedAnswers, DecisionsView } from '@axion/contract'
import { formatAmount, placeOf, type Baseline, type Given } from '@axion/core'
import { audit } from '../../audit/audit.ts'
import { importBaseline, recordedAt } from '../../baseline/import.ts'
import { loadBaseline } from '../../baseline/load.ts'
import { readBaseline } from '../../baseline/read.ts'
import type { Books } from '../../database/connection.ts'
import { Problem } from '../../faults/problem.ts'
import { noteSetUp } from '../../setUp/clock.ts'
import { recordBatch } from '../../setUp/steps.ts'
import { freshCertificate } from '../certificates/certificates.ts'
import { chargedFor } from '../registrations/registrations.ts'

type Unasked = Pick<Baseline, 'agencies' | 'parties'>

/** What of a baseline nobody can tell but a person: agencies that collect and have no registration, parties that claim and show nothing. */
function unanswered(baseline: Baseline): Unasked {
  const registered = new Set(baseline.registrations.map(({ agencyId }) => agencyId))
  const shown = new Set(baseline.certificates.map(({ partyId }) => partyId))
  const levying = new Set(baseline.jurisdictions.flatMap(({ agencyId }) => agencyId ?? []))
  return {
    agencies: baseline.agencies.filter(({ id }) => levying.has(id) && !registered.has(id)),
    parties: baseline.parties.filter(
      ({ id, claims, catchAll }) => claims !== null && !catchAll && !shown.has(id),
    ),
  }
}

/** What is asked plainly of the baseline as it stands, largest money first; what the drafted one would ask as well is counted. */
export async function askedOf(
  books: Books,
  month: string,
  { given, whole }: { readonly given: Given; readonly whole: Baseline },
): Promise<DecisionsView['asked']> {
  const { agencies, parties } = unanswered(given.known)
  const later = unanswered(whole)
  const charged = agencies.length > 0 ? await chargedFor(books, month) : new Map<string, bigint>()
  const taxOf = (agency: string): bigint => charged.get(agency) ?? 0n
  const regions = given.known.jurisdictions.filter(({ level }) => level === 'region')
  return {
    registrations: [...agencies]
      .sort((a, b) => (taxOf(a.id) === taxOf(b.id) ? 0 : taxOf(a.id) < taxOf(b.id) ? 1 : -1))
      .map(({ id, name }) => ({ agency: id, name, charged: formatAmount(taxOf(id), books.currency) })),
    certificates: parties
      .map(({ id, name, claims }) => {
        const own = given.sales.filter(({ document }) => document.partyId === id)
        const where = own.flatMap(({ document }) =>
          placeOf(document.shipTo, regions).jurisdictions.map((one) => one.id),
        )
        return {
          ...{ party: id, name, reason: claims ?? '' },
          ...{ documents: own.length, regions: [...new Set(where)].sort() },
        }
      })
      .sort((a, b) => b.documents - a.documents),
    regions: regions.map(({ id, name }) => ({ id, name })),
    later: {
      registrations: later.agencies.length - agencies.length,
      certificates: later.parties.length - parties.length,
    },
  }
}

/**
 * Keeps what a person answered, in one act that is taken back in one.
 * @throws AXION_STALE of what is not asked any more, AXION_BASELINE_INCONSISTENT of a region that is not there; then nothing is kept
 */
export async function keepAnswers(
  books: Books,
  person: string,
  { registrations, certificates }: AskedAnswers,
): Promise<number> {
  const now = await readBaseline(books)
  const { agencies, parties } = unanswered((await loadBaseline(books)).baseline)
  const asked = {
    agencies: new Map(agencies.map(({ id, name }) => [id, name])),
    parties: new Map(parties.map((party) => [party.id, party])),
  }
  const codes = new Set(now.certificates.map(({ code }) => code))
  const at = await recordedAt(books)
  const answered: string[] = []
  const wanted = {
    ...now,
    registrations: [
      ...now.registrations,
      ...registrations.map(({ agency, number, from }) => {
        answered.push(once(asked.agencies, agency))
        return { ...{ agency, number, from }, ...{ basis: null, frequency: null, to: null } }
      }),
    ],
    certificates: [
      ...now.certificates,
      ...certificates.map(({ party, number, regions, from, to }) => {
        const { claims, name } = once(asked.parties, party)
        answered.push(name)
        const code = freshCertificate(number, codes)
        codes.add(code)
        return { ...{ code, number, party, reason: claims ?? '' }, ...{ regions, from, to } }
      }),
    ],
  }
  await importBaseline(books, wanted, at)
  const [first = ''] = answered
  const says = answered.length === 1 ? first : `${first} and ${answered.length - 1} more`
  await audit(books.trx, 'answered', says, {
    after: {
      registrations: registrations.map(({ agency, number }) => `${agency} ${number}`),
      certificates: certificates.map(({ party, number }) => `${party} ${number}`),
    },
  })
  await recordBatch(books, { person, action: 'answered', says }, [{ did: 'imported', at }])
  await noteSetUp(books)
  return answered.length
}

/** Takes what is asked out of the list: what was answered by somebody else meanwhile, or twice here, is asked no more. */
function once<T>(asked: Map<string, T>, id: string): T {
  const found = asked.get(id)
  if (found === undefined) throw new Problem('AXION_STALE', { what: `What is asked of ${id}` })
  asked.delete(id)
  return found
}
