import { findingOf, NEW_ROW, type Party } from '@axion/contract'
import { foldName, groupBy, remembered, type Certificate } from '@axion/core'
import type { Held, HeldSystem } from '../../setUp/held.ts'
import { partyDefaults } from './keptDefaults.ts'
import type { Found, GridBasis, KindOfSetUp, BaselineRow } from './kind.ts'

/** So many days before its end a certificate is about to expire. */
const SOON_DAYS = 60

export const PARTIES: KindOfSetUp = {
  kind: 'parties',
  link: 'party',
  resource: 'parties',
  rows: (basis) =>
    basis.index.baseline.parties.map((party) => {
      const held = basis.index.certificatesOf(party.id)
      const certificate = held.find((c) => holds(c, basis.date))
      return {
        id: party.id,
        name: party.name,
        group: party.catchAll
          ? 'Stands for many'
          : party.claims === null
            ? 'Claims nothing'
            : 'Claims to be exempt',
        detail: party.claims?.replaceAll('-', ' ') ?? '',
        total: certificate
          ? `${certificate.number}${certificate.valid.to ? ` to ${certificate.valid.to}` : ''}`
          : held.length > 0
            ? 'expired'
            : '',
      }
    }),
  needs: () => false,
  // Customers who claim nothing are known by their documents: only an exemption makes one worth agreeing on.
  matters: (system, objectId, basis) => {
    const party = partyOf(system, objectId)?.value
    return party !== undefined && (party.exemption !== null || partyDefaults(basis, system, party).length > 0)
  },
  found: (basis, system, objectId) => {
    const party = partyOf(system, objectId)?.value
    return party ? partyDefaults(basis, system, party) : []
  },
  says: (held, objectId, basis) => {
    const party = partyOf(held, objectId)?.value
    return party ? heldAs(party.exemption?.reason ?? null, partyDefaults(basis, held, party)) : ''
  },
  ofNew: ({ index }) => {
    const ours = index.baseline.defaults.partiesTaxable
    const word = (taxable: boolean): string => (taxable ? 'taxable' : 'exempt')
    return ours === null
      ? null
      : {
          row: { id: NEW_ROW, name: 'New customers', group: 'By default', detail: word(ours), total: '' },
          of: ({ held }) => {
            const theirs = held.row.settings?.newPartiesTaxable ?? null
            if (theirs === null) return null
            const facts = { system: held.row.name, ours: word(ours), theirs: word(theirs) }
            return {
              agrees: theirs === ours,
              words: theirs === ours ? word(ours) : `${word(theirs)}, not ${word(ours)}`,
              found: theirs === ours ? [] : [findingOf('AXION_DEFAULT_PARTY', facts)],
            }
          },
        }
  },
  about: ({ index, date }, row) => {
    const party = index.party(row.id)
    if (!party || party.claims === null || party.catchAll) return []
    return certificateFindings(row, party.claims, index.certificatesOf(party.id), date)
  },
  compare: (basis: GridBasis, row: BaselineRow, objectId, { held }) => {
    const { index } = basis
    const party = index.party(row.id)
    const theirs = partyOf(held, objectId)?.value
    if (!party || !theirs) return { agrees: false, words: '', fields: [], found: [], remedies: [] }
    const claims = theirs.exemption?.reason ?? null
    const facts = { name: row.name, system: held.row.name, ours: say(party.claims), theirs: say(claims) }
    const twins = twinsOf(held, theirs.name).filter((other) => other.id !== objectId)
    const found: Found[] = [
      ...(party.catchAll && claims !== null
        ? [findingOf('AXION_CATCH_ALL', facts)]
        : claims === party.claims
          ? []
          : [findingOf('AXION_PARTY_CLAIMS', facts)]),
      ...(twins.length > 0 && party.claims !== null
        ? [
            findingOf('AXION_PARTY_TWICE', {
              ...facts,
              theirs: [objectId, ...twins.map((t) => t.id)].sort().join(', '),
            }),
          ]
        : []),
      ...partyDefaults(basis, held, theirs),
    ]
    const certificate = index.certificatesOf(row.id)[0]?.number ?? null
    const differs = claims !== party.claims
    return {
      remedies: !differs
        ? []
        : [
            ...(held.row.about.takes.includes('parties')
              ? [{ kind: 'send', align: 'parties', systemId: held.row.system_id, objectId } as const]
              : []),
            ...(party.catchAll
              ? []
              : [{ kind: 'adopt', align: 'parties', systemId: held.row.system_id, objectId } as const]),
          ],
      agrees: found.length === 0,
      found,
      words: found.some(({ code }) => code === 'AXION_CATCH_ALL' || code === 'AXION_PARTY_CLAIMS')
        ? `${say(claims)}, not ${say(party.claims)}`
        : heldAs(claims, found),
      fields: [
        {
          field: 'Exempt for',
          ours: party.claims ?? 'nothing',
          theirs: claims ?? 'nothing',
          agrees: claims === party.claims,
        },
        {
          field: 'Certificate',
          ours: certificate ?? 'none',
          theirs: theirs.exemption?.certificate ?? 'none',
          agrees: (theirs.exemption?.certificate ?? null) === certificate,
        },
      ],
    }
  },
}

/** What a cell says beside what a party is exempt for. */
const BESIDE: Readonly<Record<string, string>> = {
  AXION_PARTY_TWICE: 'twice',
  AXION_PARTY_RATE: 'at another place’s rate',
  AXION_PARTY_FLAG: 'untaxed by a flag',
}

/** What a system has a party as: an untaxed one is not called taxable. */
function heldAs(claims: string | null, found: readonly Found[]): string {
  const isUntaxed = found.some(({ code }) => code === 'AXION_PARTY_FLAG')
  return [...(isUntaxed ? [] : [say(claims)]), ...found.flatMap(({ code }) => BESIDE[code] ?? [])].join(', ')
}

function say(reason: string | null): string {
  return reason === null ? 'taxable' : `exempt for ${reason.replaceAll('-', ' ')}`
}

function certificateFindings(
  row: BaselineRow,
  reason: string,
  certificates: readonly Certificate[],
  date: string,
): Found[] {
  const [latest] = [...certificates].sort((a, b) =>
    (b.valid.to ?? '9999-12-31') < (a.valid.to ?? '9999-12-31') ? -1 : 1,
  )
  if (!latest)
    return [findingOf('AXION_CERTIFICATE_MISSING', { name: row.name, reason: reason.replaceAll('-', ' ') })]
  const { to } = latest.valid
  if (to === null) return []
  const facts = { name: row.name, number: latest.number, date: to }
  if (to < date) return [findingOf('AXION_CERTIFICATE_EXPIRED', facts)]
  return (Date.parse(to) - Date.parse(date)) / 86_400_000 <= SOON_DAYS
    ? [findingOf('AXION_CERTIFICATE_EXPIRING', facts)]
    : []
}

function holds({ valid }: Certificate, date: string): boolean {
  return valid.from <= date && (valid.to === null || date <= valid.to)
}

const PARTIES_OF = new WeakMap<HeldSystem, Map<string, ReadonlyMap<string, Held<Party>>>>()
const TWINS = new WeakMap<HeldSystem, Map<string, ReadonlyMap<string, readonly Held<Party>[]>>>()

function partyOf(held: HeldSystem, objectId: string): Held<Party> | undefined {
  return remembered(
    PARTIES_OF,
    held,
    'by id',
    () => new Map(held.parties.map((party) => [party.id, party])),
  ).get(objectId)
}

function twinsOf(held: HeldSystem, name: string): readonly Held<Party>[] {
  return (
    remembered(TWINS, held, 'by name', () =>
      groupBy(held.parties, (party) => foldName(party.value.name)),
    ).get(foldName(name)) ?? []
  )
}
