import type { NewRate, NewRateGround } from '@axion/contract'
import {
  add,
  formatPercent,
  parsePercent,
  PERCENT_SCALE,
  ratio,
  round,
  multiply,
  type Level,
} from '@axion/core'

/** What is typed into the form, as it is typed. */
export interface Draft {
  code: string
  name: string
  from: string
  to: string
  jurisdictions: string[]
  withPlace: boolean
  placeCode: string
  placeName: string
  level: Level
  parent: string
  percent: string
  country: string
  region: string
  postalCodes: string
  onTopOf: string[]
  roundingLevel: 'document' | 'line' | 'unit'
  roundingUnit: 'component' | 'combined'
  tie: 'half-away' | 'half-even' | 'truncate'
  /** The code of a known agency; empty for a new one. */
  agency: string
  agencyCode: string
  agencyName: string
  account: string
  registration: string
}

export function emptyDraft(month: string): Draft {
  return {
    code: '',
    name: '',
    from: `${month}-01`,
    to: '',
    jurisdictions: [],
    withPlace: true,
    placeCode: '',
    placeName: '',
    level: 'city',
    parent: '',
    percent: '',
    country: '',
    region: '',
    postalCodes: '',
    onTopOf: [],
    roundingLevel: 'document',
    roundingUnit: 'component',
    tie: 'half-away',
    agency: '',
    agencyCode: '',
    agencyName: '',
    account: '',
    registration: '',
  }
}

/** The draft as the server takes it; what it refuses it names. */
export function requestOf(
  draft: Draft,
  { isKnown, needsRounding }: { readonly isKnown: boolean; readonly needsRounding: boolean },
): NewRate {
  const { code, name, from, to, jurisdictions, withPlace } = draft
  const bounds = {
    country: draft.country.trim(),
    ...(draft.region.trim() === '' ? {} : { region: draft.region.trim() }),
  }
  const postalCodes = draft.postalCodes.split(/[\s,;]+/).filter(Boolean)
  return {
    code: code.trim(),
    name: name.trim(),
    jurisdictions,
    from,
    to: to === '' ? null : to,
    place: !withPlace
      ? null
      : {
          code: draft.placeCode.trim(),
          name: draft.placeName.trim(),
          level: draft.level,
          parent: draft.parent === '' ? null : draft.parent,
          covers:
            postalCodes.length === 0
              ? [bounds]
              : postalCodes.map((postalCode) => ({ ...bounds, postalCode })),
          percent: draft.percent.trim(),
          onTopOf: draft.onTopOf.filter((one) => jurisdictions.includes(one)),
          rounding: needsRounding
            ? { level: draft.roundingLevel, unit: draft.roundingUnit, tie: draft.tie }
            : null,
          agency: isKnown
            ? { is: 'known', code: draft.agency }
            : {
                is: 'new',
                code: draft.agencyCode.trim(),
                name: draft.agencyName.trim(),
                account: draft.account,
                registration:
                  draft.registration.trim() === ''
                    ? null
                    : { number: draft.registration.trim(), basis: null, frequency: null },
              },
        },
  }
}

/** What the rate comes to today, tax on tax included; nothing while a percent is not one. */
export function percentInAll(
  { jurisdictions, withPlace, percent, onTopOf }: Draft,
  ground: NewRateGround,
): string {
  try {
    const of = (code: string): bigint =>
      parsePercent(ground.places.find((one) => one.code === code)?.percent ?? '0')
    const together = jurisdictions.reduce((sum, code) => sum + of(code), 0n)
    if (!withPlace) return jurisdictions.length === 0 ? '' : formatPercent(together)
    if (percent.trim() === '') return ''
    const below = onTopOf
      .filter((code) => jurisdictions.includes(code))
      .reduce((sum, code) => sum + of(code), 0n)
    const own = multiply(ratio(parsePercent(percent.trim())), add(ratio(1n), ratio(below, PERCENT_SCALE)))
    return formatPercent(together + round(own))
  } catch (error) {
    if (error instanceof Error && 'code' in error) return ''
    throw error
  }
}
