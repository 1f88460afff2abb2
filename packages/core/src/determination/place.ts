import { LEVELS, type Address, type Cover, type Jurisdiction } from '../baseline/baseline.ts'
import { fault, finding, type Finding } from '../faults.ts'
import { remembered } from '../remembered.ts'

export interface Place {
  /** From country down to districts. */
  readonly jurisdictions: readonly Jurisdiction[]
  readonly findings: readonly Finding[]
}

const NARROWNESS = { plus4: 4, postalCode: 3, city: 2, region: 1, country: 0 } as const
const NEEDS_A_COVER: readonly string[] = ['country', 'region']

/**
 * The jurisdictions that cover an address (K3, step 1). At each level the narrowest cover wins; districts stack.
 * No cover at country or region level, two equally narrow ones, and a +4 that is needed and absent are findings.
 */
export function placeOf(address: Address, jurisdictions: readonly Jurisdiction[]): Place {
  const places = PLACES.get(jurisdictions) ?? new WeakMap<Address, Place>()
  PLACES.set(jurisdictions, places)
  const known = places.get(address) ?? alike(address, jurisdictions)
  places.set(address, known)
  return known
}

/** An address's place among the same jurisdictions is the same each time a document is determined. */
const PLACES = new WeakMap<readonly Jurisdiction[], WeakMap<Address, Place>>()
/** So is that of addresses in the same place: what else of an address there is does not decide. */
const ALIKE = new WeakMap<readonly Jurisdiction[], Map<string, Place>>()
/** So many places are kept at a time. */
const MOST_ALIKE = 10_000

function alike(address: Address, jurisdictions: readonly Jurisdiction[]): Place {
  const places = ALIKE.get(jurisdictions) ?? new Map<string, Place>()
  ALIKE.set(jurisdictions, places)
  const { country, region, city, postalCode } = address
  const key = JSON.stringify([country, region, city, postalCode])
  const known = places.get(key)
  if (known) return known
  if (places.size >= MOST_ALIKE) places.clear()
  const place = found(address, nearby(address, jurisdictions))
  places.set(key, place)
  return place
}

const NEARBY = new WeakMap<readonly Jurisdiction[], Map<string, readonly Jurisdiction[]>>()

/** Those that could cover an address of its country and region, in their order. */
function nearby(
  { country, region }: Address,
  jurisdictions: readonly Jurisdiction[],
): readonly Jurisdiction[] {
  return remembered(NEARBY, jurisdictions, `${country} ${region ?? ''}`, () =>
    jurisdictions.filter((j) =>
      j.covers.some(
        (cover) => cover.country === country && (cover.region === undefined || cover.region === region),
      ),
    ),
  )
}

function found(address: Address, jurisdictions: readonly Jurisdiction[]): Place {
  const covered: Jurisdiction[] = []
  const findings: Finding[] = []
  const at = { address: describe(address) }
  const remark = (one: Finding): void => void findings.push(one)

  for (const level of LEVELS) {
    const candidates = jurisdictions
      .filter((j) => j.level === level)
      .map((j) => ({ jurisdiction: j, ...match(address, j.covers) }))
    const uncertain = candidates.filter((c) => c.needsPlus4)
    const covering = candidates.filter((c) => c.narrowness >= 0)
    if (uncertain.length > 0) {
      remark(
        finding('AXION_PLUS4_NEEDED', {
          jurisdiction: uncertain.map((c) => c.jurisdiction.name).join(', '),
          ...at,
        }),
      )
    }
    if (level === 'district') {
      covered.push(...covering.map((c) => c.jurisdiction))
      continue
    }
    const narrowest = Math.max(-1, ...covering.map((c) => c.narrowness))
    const winners = covering.filter((c) => c.narrowness === narrowest).map((c) => c.jurisdiction)
    if (winners.length > 1)
      remark(
        finding('AXION_TWO_JURISDICTIONS', {
          level,
          jurisdictions: winners.map((j) => j.name).join(', '),
          ...at,
        }),
      )
    else if (winners[0]) covered.push(winners[0])
    else if (NEEDS_A_COVER.includes(level)) remark(finding('AXION_NO_JURISDICTION', { level, ...at }))
  }
  return { jurisdictions: covered, findings }
}

/** The address as one line, for findings. */
export function describe(address: Address): string {
  return [address.city, address.postalCode, address.region, address.country].filter(Boolean).join(', ')
}

function match(address: Address, covers: readonly Cover[]): { narrowness: number; needsPlus4: boolean } {
  const verdicts = covers.map((cover) => matchOne(address, cover))
  return {
    narrowness: Math.max(-1, ...verdicts.map((v) => (typeof v === 'number' ? v : -1))),
    needsPlus4: verdicts.includes('needs-plus4'),
  }
}

function matchOne(address: Address, cover: Cover): number | 'needs-plus4' {
  const [postalCode, plus4] = (address.postalCode ?? '').split('-')
  if (cover.country !== address.country) return -1
  if (cover.region !== undefined && cover.region !== address.region) return -1
  if (cover.city !== undefined && foldCity(cover.city) !== foldCity(address.city ?? '')) return -1
  if (cover.postalCode !== undefined && cover.postalCode !== postalCode) return -1
  if (cover.plus4 !== undefined) {
    if (cover.postalCode === undefined)
      throw fault('AXION_NO_JURISDICTION', { level: 'postal code', address: describe(address) })
    if (!plus4) return 'needs-plus4'
    return plus4 >= cover.plus4.from && plus4 <= cover.plus4.to ? NARROWNESS.plus4 : -1
  }
  if (cover.postalCode !== undefined) return NARROWNESS.postalCode
  if (cover.city !== undefined) return NARROWNESS.city
  return cover.region !== undefined ? NARROWNESS.region : NARROWNESS.country
}

/** A city's name as it is met: in any case, with any spaces. */
export function foldCity(name: string): string {
  return name.normalize('NFKC').trim().replace(/\s+/g, ' ').toLowerCase()
}
