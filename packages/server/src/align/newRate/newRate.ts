import type { NewPlace, NewRate, NewRateGround } from '@axion/contract'
import { covers, formatPercent, overlap, type BaselineIndex, type CombinedRate } from '@axion/core'
import { audit } from '../../audit/audit.ts'
import { introduce, type Revision } from '../../baseline/revise.ts'
import { postingRuleId } from '../../baseline/tables/postings.ts'
import type { Books } from '../../database/connection.ts'
import { Problem } from '../../faults/problem.ts'
import { noteSetUp } from '../../setUp/clock.ts'
import { type Step, recordBatch } from '../../setUp/steps.ts'
import { basisOf } from '../build.ts'
import { fits } from '../kinds/accounts.ts'
import type { GridBasis } from '../kinds/kind.ts'

/** What a rate can be made of in a month. */
export async function newRateGround(books: Books, month: string): Promise<NewRateGround> {
  const basis = await basisOf(books, month)
  const { index, date } = basis
  const ledger = ledgerOf(basis)
  return {
    places: index.baseline.jurisdictions.map(({ id, name, level, parentId, covers: own }) => {
      const version = index.rateOn(id, date)
      return {
        code: id,
        name,
        level,
        parent: parentId,
        percent: version ? formatPercent(version.percent) : null,
        country: own[0]?.country ?? '',
        region: own[0]?.region ?? null,
        rounds: roundsAt(index, id),
      }
    }),
    agencies: index.baseline.agencies.map(({ id, name }) => ({
      code: id,
      name,
      account: index.postingRuleOn('tax', id, date)?.account ?? null,
      registered:
        index.baseline.registrations.find((one) => one.agencyId === id && covers(one.valid, date))?.number ??
        null,
    })),
    accounts: (ledger?.accounts ?? [])
      .filter(({ value }) => fits({ kind: 'tax', only: null }, value, basis).fits)
      .map(({ value }) => ({ number: value.number, name: value.name })),
  }
}

function ledgerOf({ systems }: GridBasis) {
  return systems.find(({ held }) => held.row.role === 'ledger')?.held
}

/** Whether a region's rounding is known for a place: its own, or that of one above it. */
function roundsAt(index: BaselineIndex, id: string | null): boolean {
  if (id === null) return false
  return (
    index.baseline.roundings.some((one) => one.jurisdictionId === id) ||
    roundsAt(index, index.jurisdiction(id)?.parentId ?? null)
  )
}

/**
 * Takes a rate into the baseline with all that it needs, in one act that is taken back in one: the place with its bounds and percent, the
 * agency with its account and registration, and the combined rate.
 * @throws AXION_ALREADY_EXISTS, AXION_NOT_FOUND, AXION_ACCOUNT_UNFIT or AXION_BAD_REQUEST, by name; then nothing is kept
 */
export async function keepNewRate(books: Books, month: string, person: string, rate: NewRate): Promise<void> {
  const basis = await basisOf(books, month)
  const { place, from, to } = rate
  for (const code of rate.jurisdictions)
    if (!basis.index.jurisdiction(code)) throw new Problem('AXION_NOT_FOUND', { what: `place ${code}` })
  const twin = place ? undefined : sameRate(rate, basis.index)
  if (twin) throw new Problem('AXION_ALREADY_EXISTS', { what: `${twin.name}, of the same places,` })
  const revisions: Revision[] = [
    ...(place ? placed(place, rate, basis) : []),
    {
      table: 'combined_rate',
      objectId: rate.code,
      values: {
        name: rate.name,
        jurisdictions: [...rate.jurisdictions, ...(place ? [place.code] : [])],
        item_tax_code: null,
      },
      from,
      to,
    },
  ]
  const steps: Step[] = []
  for (const revision of revisions) steps.push({ did: 'revised', ...(await introduce(books, revision)) })
  await audit(books.trx, 'entered-rate', rate.name, {
    after: {
      Code: rate.code,
      Places: [...rate.jurisdictions, ...(place ? [place.code] : [])],
      ...(place ? { Percent: place.percent, Agency: place.agency.code } : {}),
      From: from,
      To: to ?? '',
    },
  })
  await recordBatch(books, { person, action: 'new-rate', says: rate.name }, steps)
  await noteSetUp(books)
}

/** A rate of the same places on some of the same days: two of them, and nobody could say which is meant. */
function sameRate(
  { jurisdictions, ...days }: NewRate,
  { baseline }: BaselineIndex,
): CombinedRate | undefined {
  const wanted = new Set(jurisdictions)
  return baseline.combinedRates.find(
    ({ itemTaxCode, jurisdictionIds, valid }) =>
      itemTaxCode === null &&
      jurisdictionIds.length === wanted.size &&
      jurisdictionIds.every((id) => wanted.has(id)) &&
      overlap(valid, days),
  )
}

function placed(place: NewPlace, { jurisdictions, from, to }: NewRate, basis: GridBasis): Revision[] {
  const { index } = basis
  if (place.parent !== null && !index.jurisdiction(place.parent))
    throw new Problem('AXION_NOT_FOUND', { what: `place ${place.parent}` })
  const odd = place.onTopOf.find((code) => !jurisdictions.includes(code))
  if (odd !== undefined)
    throw new Problem('AXION_BAD_REQUEST', {
      path: 'place.onTopOf',
      problem: `${odd} is not charged together with it`,
    })
  if (place.rounding === null && !roundsAt(index, place.parent))
    throw new Problem('AXION_BAD_REQUEST', {
      path: 'place.rounding',
      problem: 'nothing above the place says how its region rounds',
    })
  return [
    ...agencyOf(place, from, basis),
    {
      table: 'jurisdiction',
      objectId: place.code,
      values: {
        name: place.name,
        level: place.level,
        parent: place.parent,
        agency: place.agency.code,
        covers: place.covers,
      },
      from: null,
    },
    {
      table: 'rate_version',
      objectId: place.code,
      values: { jurisdiction: place.code, percent: place.percent, on_top_of: place.onTopOf },
      from,
      to,
    },
    ...(place.rounding === null
      ? []
      : [
          {
            table: 'rounding_place' as const,
            objectId: place.code,
            values: { jurisdiction: place.code, ...place.rounding },
            from,
          },
        ]),
  ]
}

function agencyOf({ agency }: NewPlace, from: string, basis: GridBasis): Revision[] {
  const known = basis.index.agency(agency.code)
  if (agency.is === 'known') {
    if (!known) throw new Problem('AXION_NOT_FOUND', { what: `agency ${agency.code}` })
    return []
  }
  const account = ledgerOf(basis)?.accounts.find(({ value }) => value.number === agency.account)?.value
  if (!account) throw new Problem('AXION_ACCOUNT_NOT_IN_LEDGER', { account: agency.account })
  const { fits: isFit, wanted } = fits({ kind: 'tax', only: null }, account, basis)
  if (!isFit)
    throw new Problem('AXION_ACCOUNT_UNFIT', {
      account: agency.account,
      name: `The tax of ${agency.name}`,
      type: account.type.replaceAll('-', ' '),
      wanted,
    })
  return [
    { table: 'agency', objectId: agency.code, values: { name: agency.name }, from: null },
    {
      table: 'posting_rule',
      objectId: postingRuleId('tax', agency.code, null),
      values: { kind: 'tax', agency: agency.code, only_by: null, only_id: null, account: agency.account },
      from,
    },
    ...(agency.registration === null
      ? []
      : [
          {
            table: 'registration' as const,
            objectId: agency.code,
            values: { agency: agency.code, ...agency.registration },
            from,
          },
        ]),
  ]
}
