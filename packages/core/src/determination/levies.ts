import type { Certificate, CodeRule, Jurisdiction } from '../baseline/baseline.ts'
import { covers, type IsoDate } from '../baseline/dates.ts'
import type { BaselineIndex } from '../baseline/lookup.ts'
import { finding, type Finding } from '../faults.ts'
import { ratio, type Percent, type Ratio } from '../money/decimal.ts'
import type { Assumed, Reason, RowSource } from './determination.ts'
import type { DocumentLine, TaxDocument } from './document.ts'
import { WHOLE, type Slice } from './slice.ts'
import type { Sourced } from './sourcing.ts'

/** What one jurisdiction makes of one line, before amounts: at what rate, on which slice, or for which reason not at all. */
export interface Levy {
  readonly jurisdictionId: string
  readonly agencyId: string
  readonly percent: Percent
  readonly perUnit: Ratio | null
  readonly onTopOf: readonly string[]
  readonly slice: Slice
  readonly reason: Reason
  /** Why what the rule taxes is not taxed after all: a certificate, or no registration. */
  readonly waived: Reason | null
  readonly followsGoods: boolean
  readonly source: RowSource
}

/** Where, when and for whom a document is determined. */
export interface Circumstances {
  readonly document: TaxDocument
  readonly index: BaselineIndex
  readonly assumed: Assumed
  readonly sourced: Sourced
  /** The date that decides rate, rule, certificate and registration. */
  readonly date: IsoDate
  readonly roundingId: string | null
  readonly certificate: Certificate | null
}

/** The jurisdictions' view of a line; what the baseline cannot answer is a finding. */
export function leviesOn(line: DocumentLine, at: Circumstances): { levies: Levy[]; findings: Finding[] } {
  const levies: Levy[] = []
  const findings: Finding[] = []
  const { jurisdictions, ratedAs } = at.assumed
  const kind = openKind(line, at)
  if (kind) return { levies, findings: [kind] }
  for (const jurisdiction of ratedAs?.get(line.id)?.jurisdictions ??
    jurisdictions ??
    at.sourced.jurisdictions) {
    if (!at.index.levies(jurisdiction.id) || jurisdiction.id === at.assumed.without) continue
    const levy = levyOf(line, jurisdiction, at)
    if (levy === null) continue
    if ('code' in levy) findings.push(levy)
    else levies.push(levy)
  }
  return { levies, findings }
}

/** A sale of a kind of its own goes by no item tax code that was agreed upon for ordinary sales. */
function openKind(line: DocumentLine, { document }: Circumstances): Finding | null {
  const { saleKind = null } = document
  if (saleKind === null || document.purchase === true || line.decision?.kindAgreed === true) return null
  return finding('AXION_SALE_KIND_OPEN', { document: document.number, line: line.id, saleKind })
}

function levyOf(line: DocumentLine, jurisdiction: Jurisdiction, at: Circumstances): Levy | Finding | null {
  const { document, index, assumed, date } = at
  const facts = { document: document.number, line: line.id, jurisdiction: jurisdiction.name, date }
  const code = codeUnder(line, assumed)
  if (code === null) return finding('AXION_NO_ITEM_TAX_CODE', facts)
  const rule = index.codeRuleOn(jurisdiction.id, code, date, document.currency)
  if (!rule) return finding('AXION_NO_CODE_RULE', { ...facts, itemTaxCode: code })
  // A jurisdiction that taxes only by rules of its own says nothing of codes that it has no such rule for.
  if (index.ratesOf(jurisdiction.id).length === 0 && rule.percent === null && rule.perUnit === null)
    return null
  if (jurisdiction.agencyId === null) return finding('AXION_JURISDICTION_WITHOUT_AGENCY', facts)
  const limited = rule.threshold !== null || rule.cap !== null || rule.perUnit !== null
  if (limited && rule.currency !== document.currency)
    return finding('AXION_LIMIT_IN_OTHER_CURRENCY', {
      ...facts,
      currency: document.currency,
      limitCurrency: rule.currency ?? '',
    })
  const levy = untaxed(jurisdiction.id, jurisdiction.agencyId, rule, at)
  return ratedBy(levy, treatmentOf(line, rule, assumed), rule, at) ?? finding('AXION_NO_RATE_ON_DATE', facts)
}

/** The item tax code that decides a line: the one named for it, the one assumed for goods and services, its own. */
function codeUnder(line: DocumentLine, assumed: Assumed): string | null {
  const named = assumed.ratedAs?.get(line.id)?.itemTaxCode
  if (named != null) return named
  return line.kind === 'shipping' ? line.itemTaxCode : (assumed.itemTaxCode ?? line.itemTaxCode)
}

function treatmentOf(line: DocumentLine, rule: CodeRule, assumed: Assumed): CodeRule['treatment'] {
  if (line.kind === 'shipping' && assumed.shipping)
    return assumed.shipping === 'taxed' ? 'standard' : 'exempt'
  const rated = assumed.ratedAs?.get(line.id)
  if (rated?.itemTaxCode !== null) return rule.treatment
  return rule.treatment === 'reduced' || rated.taxed === true ? 'standard' : rule.treatment
}

/** What a jurisdiction says of a line before its rate, and why the document is free of it where it is. */
function untaxed(jurisdictionId: string, agencyId: string, rule: CodeRule, at: Circumstances): Levy {
  const { document, assumed, certificate } = at
  const registration = at.index.registrationOn(agencyId, at.date)
  const exempted =
    document.purchase !== true &&
    (assumed.certificates === 'everyone' || (certificate !== null && assumed.certificates !== 'ignored'))
  return {
    jurisdictionId,
    agencyId,
    percent: 0n,
    perUnit: null,
    onTopOf: [],
    slice: { threshold: rule.threshold, cap: rule.cap, share: ratio(1n) },
    reason: 'standard',
    waived: exempted
      ? 'certificate'
      : document.marketplace != null
        ? 'marketplace'
        : registration || document.purchase === true
          ? null
          : 'not-registered',
    followsGoods: false,
    source: {
      rateVersion: null,
      codeRule: rule.id,
      certificate: exempted ? (certificate?.id ?? null) : null,
      registration: registration?.id ?? null,
      rounding: at.roundingId,
    },
  }
}

/** The levy with the rate that a treatment gives it; null where there is none on the date. */
function ratedBy(
  levy: Levy,
  treatment: CodeRule['treatment'],
  rule: CodeRule,
  { document, index, assumed, date }: Circumstances,
): Levy | null {
  if (treatment === 'exempt' || treatment === 'zero-rated' || treatment === 'out-of-scope')
    return {
      ...levy,
      reason: treatment,
      slice: WHOLE,
      waived: null,
      source: { ...levy.source, certificate: null, registration: null },
    }
  if (treatment === 'per-unit') return { ...levy, reason: 'per-unit', perUnit: rule.perUnit }
  const { jurisdictionId } = levy
  const version = index.ratesOf(jurisdictionId).find((v) => covers(v.valid, assumed.ratesOn ?? date))
  const onTopOf = version?.onTopOf ?? []
  if (treatment === 'reduced') {
    const dated =
      assumed.ratesOn === undefined
        ? rule
        : index.codeRuleOn(jurisdictionId, rule.itemTaxCode, assumed.ratesOn, document.currency)
    const percent =
      assumed.percentOf?.(jurisdictionId, rule.itemTaxCode) ??
      (dated?.treatment === 'reduced' ? dated.percent : rule.percent) ??
      0n
    return { ...levy, reason: 'reduced', percent, onTopOf }
  }
  if (!version && levy.waived === null) return null
  return {
    ...levy,
    reason: 'standard',
    followsGoods: treatment === 'follows-goods',
    onTopOf,
    percent: assumed.percentOf?.(jurisdictionId, null) ?? version?.percent ?? 0n,
    source: { ...levy.source, rateVersion: version?.id ?? null },
  }
}

/** The certificate that frees a party in a region on a date (K3, step 4), and what is to be remarked where a claim has none. */
export function certificateFor(
  document: TaxDocument,
  index: BaselineIndex,
  { region, rule }: Sourced,
  date: IsoDate,
): { certificate: Certificate | null; remarks: Finding[] } {
  const party = document.partyId === null ? undefined : index.party(document.partyId)
  if (!party || !region || document.purchase === true) return { certificate: null, remarks: [] }
  const facts = { document: document.number, party: party.name, region: region.name, date }
  const remark = (one: Finding): { certificate: null; remarks: Finding[] } => ({
    certificate: null,
    remarks: [one],
  })
  if (party.catchAll)
    return party.claims === null
      ? { certificate: null, remarks: [] }
      : remark(finding('AXION_CATCH_ALL_CLAIMS', facts))
  const covering = index
    .certificatesOf(party.id)
    .filter((c) => c.regionIds.includes(region.id) && covers(c.valid, date))
  const accepted = covering.find((c) => rule?.exemptionReasons.includes(c.reason))
  if (accepted) return { certificate: accepted, remarks: [] }
  if (covering[0])
    return remark(finding('AXION_REASON_NOT_ACCEPTED', { ...facts, reason: covering[0].reason }))
  return party.claims === null
    ? { certificate: null, remarks: [] }
    : remark(finding('AXION_EXEMPTION_WITHOUT_CERTIFICATE', { ...facts, reason: party.claims }))
}
