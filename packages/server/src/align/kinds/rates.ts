import { findingOf, NEW_ROW, type TaxRate } from '@axion/contract'
import { covers, formatPercent, parsePercent, type CombinedRate } from '@axion/core'
import { compareRate, ownPerUnit, sayTotal, totalOf, type ComparedRate } from '../../setUp/compare.ts'
import { homeRate } from './keptDefaults.ts'
import type { Found, GridBasis, KindOfSetUp, AlignedSystem } from './kind.ts'

const SHIP_ANYWHERE: readonly string[] = ['ledger', 'billing']

export const RATES: KindOfSetUp = {
  kind: 'rates',
  link: 'combined-rate',
  resource: 'tax-rates',
  rows: ({ index, date }) =>
    index.baseline.combinedRates
      .filter((rate) => covers(rate.valid, date))
      .map((rate) => {
        const components = index.componentsOn(rate, date)
        return {
          id: rate.id,
          name: rate.name,
          group:
            rate.jurisdictionIds.map((id) => index.jurisdiction(id)).find((j) => j?.level === 'region')
              ?.name ?? 'No region',
          detail: components
            .map((c) =>
              c.percent === null
                ? '?'
                : c.perUnit
                  ? sayTotal(c.percent, [ownPerUnit(c)])
                  : `${formatPercent(c.percent)}${c.onTopOf.length > 0 ? ' on top' : ''}`,
            )
            .join(' + '),
          total: sayTotal(totalOf(components), components.map(ownPerUnit)),
        }
      }),
  // Where goods ship anywhere, every rate is needed; an outlet or a shop holds those of its own places.
  needs: (_, __, { row }) => SHIP_ANYWHERE.includes(row.role),
  // What is switched off charges nothing any more.
  matters: (held, objectId) => held.rates.find((r) => r.id === objectId)?.value.active === true,
  says: (held, objectId) => {
    const rate = held.rates.find((r) => r.id === objectId)?.value
    return rate
      ? rate.components === null
        ? `${rate.percent} by hand, no parts`
        : sayTotal(
            parsePercent(rate.percent),
            rate.components.map((c) => c.perUnit),
          )
      : ''
  },
  ofNew: (basis) => {
    const { index, systems } = basis
    if (systems.every(({ held }) => homeRate(basis, held) === null)) return null
    const city = index.baseline.homeAddress?.city ?? ''
    return {
      row: {
        id: NEW_ROW,
        name: 'Where nothing says otherwise',
        group: 'By default',
        detail: city,
        total: '',
      },
      of: ({ held }) => homeRate(basis, held),
    }
  },
  about: () => [],
  compare: (basis, row, objectId, aligned) => {
    const { index, date } = basis
    const theirs = aligned.held.rates.find((r) => r.id === objectId)?.value
    const rate = index.combinedRate(row.id)
    if (!theirs || !rate)
      return {
        agrees: false,
        words: theirs ? `${theirs.percent} %` : '',
        fields: [],
        found: [],
        remedies: [],
      }
    const compared = compareRate(rate, theirs, { agencyOf: aligned.crosswalk.agencyOf, index, date })
    const coming = comingChange(basis, rate, theirs, aligned)
    const systemId = aligned.held.row.system_id
    const canTake = aligned.held.row.about.takes.includes('tax-rates')
    return {
      agrees: compared.agrees && coming === null,
      words:
        compared.agrees && coming
          ? `not ready for ${coming.facts['date']}, ${compared.words}`
          : compared.words,
      fields: compared.components.map((c) => ({
        field: `${index.jurisdiction(c.jurisdictionId)?.name ?? c.jurisdictionId}, ${index.agency(c.agencyId)?.name ?? ''}`,
        ours: c.percent === null ? 'no rate' : sayTotal(c.percent, [ownPerUnit(c)]),
        theirs: c.theirs === null ? null : sayTotal(c.theirs, [c.theirPerUnit]),
        agrees: c.theirs === c.percent && (c.perUnit === null || c.sameLevy),
      })),
      found: [...foundIn(compared, theirs, row.name, aligned.held.row.name), ...(coming ? [coming] : [])],
      remedies: [
        ...(canTake
          ? compared.components
              .filter((c) => c.at !== null && c.theirs !== c.percent)
              .map(
                (c) =>
                  ({
                    kind: 'component-percent',
                    systemId,
                    objectId,
                    jurisdictionId: c.jurisdictionId,
                  }) as const,
              )
          : []),
        ...(canTake &&
        !compared.flat &&
        (coming || !theirs.active || compared.components.some((c) => c.at !== null && !c.sameLevy))
          ? [{ kind: 'send', align: 'rates', systemId, objectId } as const]
          : []),
        ...(compared.components.some((c) => c.theirs !== null && c.percent !== null && c.theirs !== c.percent)
          ? [{ kind: 'adopt', align: 'rates', systemId, objectId } as const]
          : []),
      ],
    }
  },
}

function foundIn(compared: ComparedRate, theirs: TaxRate, name: string, system: string): Found[] {
  const total = formatPercent(totalOf(compared.components))
  const held = formatPercent(compared.flat ? parsePercent(theirs.percent) : compared.theirTotal)
  const facts = { name, system, ours: total, theirs: held }
  const off: Found[] = theirs.active ? [] : [findingOf('AXION_RATE_OFF', facts)]
  if (compared.flat) return [findingOf('AXION_RATE_FLAT', facts), ...off]
  if (compared.agrees) return off
  const percents = compared.components.every((c) => c.theirs === c.percent)
  const levy = percents && compared.components.some((c) => !c.sameLevy)
  return [
    findingOf(levy ? 'AXION_RATE_LEVY' : held === total ? 'AXION_RATE_SPLIT' : 'AXION_RATE_PERCENT', facts),
    ...off,
  ]
}

/** A change of the baseline's rate that is coming after the month, and that the system, agreeing now, does not have yet (B3). */
function comingChange(
  { index, date }: GridBasis,
  rate: CombinedRate,
  theirs: TaxRate,
  { held, crosswalk }: AlignedSystem,
): Found | null {
  const days = rate.jurisdictionIds
    .flatMap((id) => index.ratesOf(id))
    .map((version) => version.valid.from)
    .filter((from) => from > date)
    .sort()
  for (const day of new Set(days)) {
    const compared = compareRate(rate, theirs, { agencyOf: crosswalk.agencyOf, index, date: day })
    if (
      compared.agrees ||
      compared.flat ||
      !compareRate(rate, theirs, { agencyOf: crosswalk.agencyOf, index, date }).agrees
    )
      continue
    return findingOf('AXION_RATE_COMING', {
      name: rate.name,
      system: held.row.name,
      date: day,
      ours: formatPercent(totalOf(compared.components)),
      theirs: formatPercent(compared.theirTotal),
    })
  }
  return null
}
