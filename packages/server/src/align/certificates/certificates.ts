import type { CertificateRequest, CertificatesView } from '@axion/contract'
import { audit } from '../../audit/audit.ts'
import { loadBaseline } from '../../baseline/load.ts'
import { introduce, revise } from '../../baseline/revise.ts'
import type { Books } from '../../database/connection.ts'
import { Problem } from '../../faults/problem.ts'
import { recordBatch } from '../../setUp/steps.ts'
import { filesOf } from '../attached/files.ts'

/** Records a certificate, new or with other values; what was recorded before stays readable. */
export async function keepCertificate(
  books: Books,
  partyId: string,
  { code, number, reason, regions, from, to }: CertificateRequest,
  person: string,
): Promise<string> {
  const index = await loadBaseline(books)
  const party = index.party(partyId)
  if (!party) throw new Problem('AXION_NOT_FOUND', { what: 'such party in the baseline' })
  if (party.catchAll)
    throw new Problem('AXION_CANNOT_TAKE_IN', {
      what: `A certificate for ${party.name}`,
      why: 'whoever stands for many buyers is never exempt',
    })
  for (const region of regions)
    if (!index.jurisdiction(region))
      throw new Problem('AXION_BASELINE_INCONSISTENT', { where: 'The certificate', what: region })
  const known = code === null ? undefined : index.certificatesOf(partyId).find((one) => one.id === code)
  if (code !== null && !known) throw new Problem('AXION_NOT_FOUND', { what: 'such certificate' })
  const taken = new Set(index.baseline.certificates.map((one) => one.id))
  const id = known?.id ?? freshCertificate(number, taken)
  const values = { number, party: partyId, reason, regions }
  const step = known
    ? await revise(books, {
        table: 'certificate',
        objectId: id,
        values: { ...values, valid: `[${from},${to ?? ''}]` },
        from: null,
      })
    : await introduce(books, { table: 'certificate', objectId: id, values, from, to })
  await recordBatch(books, { person, action: 'certificate', says: `${number}, ${party.name}` }, [
    { did: 'revised', ...step },
  ])
  await audit(books.trx, 'certificate', party.name, {
    before: known
      ? {
          number: known.number,
          reason: known.reason,
          regions: known.regionIds,
          from: known.valid.from,
          to: known.valid.to,
        }
      : null,
    after: { number, reason, regions, from, to },
  })
  return id
}

/** A code for a certificate that has none yet, after its number. */
export function freshCertificate(number: string, taken: ReadonlySet<string>): string {
  const wanted = `crt-${number.replace(/[^\p{L}\p{N}]+/gu, '-').slice(0, 40)}`
  for (let at = 1; ; at++) {
    const code = at === 1 ? wanted : `${wanted}-${at}`
    if (!taken.has(code)) return code
  }
}

/** A party's certificates, the latest first, and what its regions accept. */
export async function certificatesView(books: Books, partyId: string): Promise<CertificatesView> {
  const index = await loadBaseline(books)
  const party = index.party(partyId)
  const own = index.certificatesOf(partyId)
  const files = await filesOf(
    books,
    'certificate',
    own.map((one) => one.id),
  )
  return {
    claims: party?.claims ?? null,
    certificates: [...own]
      .sort((a, b) => (a.valid.from < b.valid.from ? 1 : -1))
      .map((one) => ({
        code: one.id,
        number: one.number,
        reason: one.reason,
        regions: one.regionIds,
        from: one.valid.from,
        to: one.valid.to,
        files: files.get(one.id) ?? [],
      })),
    regions: index.baseline.jurisdictions
      .filter((j) => j.level === 'region')
      .map((j) => ({
        id: j.id,
        name: j.name,
        reasons: [
          ...new Set(
            index.baseline.regionRules
              .filter((rule) => rule.jurisdictionId === j.id)
              .flatMap((rule) => rule.exemptionReasons),
          ),
        ],
      })),
  }
}
