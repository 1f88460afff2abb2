import {
  bookedVoice,
  composeJournal,
  convertLines,
  determine,
  diagnose,
  expectedVoice,
  explanationKey,
  foretell,
  groupBy,
  judge,
  recoverableTax,
  recompute,
  signatureOf,
  statedVoice,
  sum,
  assume,
  candidatesOf,
  causeKey,
  FINEST,
  PLACES,
  rankOf,
  reproducedFacts,
  sayReproduced,
  UNCHANGED,
  otherRoundings,
  resolveAgencies,
  agencyBase,
  type Assumption,
  type BookedAccounts,
  type ChargedTax,
  type Determination,
  type Entry,
  type EntryLine,
  type Names,
  type Recomputable,
  type TaxDocument,
  type Verdict,
  type VoiceFacts,
} from '../../src/index.ts'
import { Dice, drawnCase } from './drawn.ts'

/** Texts of one shape: a value and its fields, in the order in which they are given. */
const row = (name: string, ...fields: unknown[]): string =>
  `  ${name} ${fields.map((field) => (field === null ? '–' : String(field))).join(' ')}`
const whole = ({ numerator, denominator }: { numerator: bigint; denominator: bigint }): string =>
  denominator === 1n ? `${numerator}` : `${numerator}/${denominator}`

/** What determination says of a drawn document. */
export function determined(seed: number): string[] {
  const { document, index } = drawnCase(seed)
  const of = determine(document, index)
  return [
    `${seed}: ${document.number} ${document.kind} ${document.currency} ${document.pricesIncludeTax ? 'tax inside' : 'before tax'}`,
    ...document.lines.map((l) =>
      row('line', l.id, l.kind, l.itemTaxCode, `${l.amount} of ${whole(l.quantity)}`),
    ),
    ...of.rows.map((r) =>
      row(
        'row',
        r.lineId,
        r.jurisdictionId,
        `${r.percent}%`,
        r.perUnit && whole(r.perUnit),
        r.onTopOf.join('+'),
        `net ${r.net} base ${r.base} tax ${r.tax}`,
        r.reason,
        Object.values(r.source).join(','),
      ),
    ),
    ...of.lines.map((l) => row('net', l.lineId, l.net, l.discount)),
    ...of.findings.map((f) => row('says', f.code, JSON.stringify(f.facts))),
    row(
      'of',
      of.jurisdictions.map((j) => j.id).join('+'),
      of.rounding && Object.values(of.rounding).join('/'),
      of.complete ? 'whole' : `open ${of.open.join()}`,
      `under ${agencyBase(of.rows)}`,
    ),
    ...recoverableTax(document, of, index).map((r) =>
      row(
        'back',
        JSON.stringify(r, (_, v: unknown) => (typeof v === 'bigint' ? `${v}` : v)),
      ),
    ),
  ]
}

/** What a source charged: the expected tax, at one rate, in some of its shapes. */
function charged(of: Determination, dice: Dice): ChargedTax[] {
  const byAgency = [
    ...groupBy(
      of.rows.filter((r) => r.tax !== 0n),
      (r) => r.agencyId,
    ),
  ]
  const more = dice.once(3) ? 1n : 0n
  const components = byAgency.map(([agencyId, rows], at) => ({
    agencyId: dice.once(9) ? null : agencyId,
    agencyName: agencyId,
    tax: sum(rows.map((r) => r.tax)) + (at === 0 ? more : 0n),
  }))
  return [
    {
      rateName: 'R',
      combinedRateId: dice.once(6) ? null : 'hollow-rail',
      tax: sum(components.map((c) => c.tax)),
      components: dice.once(3) ? null : components,
    },
  ]
}

/** How a drawn document is booked, and what ledgers would make of it. */
export function booked(seed: number): string[] {
  const { dice, document, index } = drawnCase(seed)
  const of = determine(document, index)
  const made = composeJournal(document, charged(of, dice), of, index)
  const lines = document.lines.map((line, at) => ({
    id: line.id,
    rateId: dice.of(['A', 'B']),
    components: [
      { agencyId: 'state', account: '2210', percent: 5_500_000n, perUnit: null, onTopOf: [] },
      {
        agencyId: dice.of(['county', null]),
        account: dice.of(['2212', null]),
        percent: 1_450_000n,
        perUnit: null,
        onTopOf: dice.once(3) ? [0] : [],
      },
      ...(dice.once(4)
        ? [
            {
              agencyId: 'city',
              account: '2214',
              percent: 0n,
              perUnit: { numerator: 75n, denominator: 2n },
              onTopOf: [],
            },
          ]
        : []),
    ],
    quantity: line.quantity,
    taxable: of.lines[at]?.net ?? line.amount,
    gross: document.pricesIncludeTax ? line.amount : null,
  }))
  return [
    `${seed}: ${document.number}`,
    ...(made.journal?.lines ?? []).map((l) =>
      row(
        l.role,
        l.account,
        l.agencyId,
        l.lineId,
        `${l.debit} | ${l.credit}`,
        l.components.map((c) => `${c.jurisdictionId}=${c.tax}`).join(' '),
      ),
    ),
    ...made.parts.map((p) => row('part', p.lineId, p.kind, p.net)),
    ...made.blocked.map((f) => row('stops', f.code, JSON.stringify(f.facts))),
    ...made.warnings.map((f) => row('warns', f.code, JSON.stringify(f.facts))),
    ...PLACES.map((place) =>
      row(
        'ledger',
        Object.values(place).join('/'),
        foretell(lines, place)
          ?.map((t) => `${t.agencyId}@${t.account}=${t.tax}`)
          .join(' ') ?? 'not to be solved',
      ),
    ),
    ...(made.journal && document.exchange
      ? [
          row(
            'in base',
            convertLines(
              made.journal.lines.map((l) => ({ ...l, amount: l.credit - l.debit })) as never,
              document.exchange,
            ).join(' '),
          ),
        ]
      : []),
  ]
}

const ACCOUNTS: BookedAccounts = {
  taxAccounts: new Set(['2210', '2212', '2214', '2216', '2218']),
  netAccounts: new Set(['498', '5000']),
  owingAccounts: new Set(['1100', '4913']),
  roundingAccounts: new Set(['4999']),
}

/** The entry that a ledger would have of what was composed, with a mistake in it now and then. */
function entryOf(document: TaxDocument, voice: VoiceFacts, dice: Dice): Entry {
  const wrong = dice.below(7)
  const side = (amount: bigint) =>
    amount < 0n ? { debit: -amount, credit: 0n } : { debit: 0n, credit: amount }
  const base: Pick<EntryLine, 'agency' | 'isTax' | 'base' | 'rateId' | 'inBase'> = {
    agency: null,
    isTax: false,
    base: null,
    rateId: null,
    inBase: null,
  }
  const byPlace = groupBy(
    voice.facts.filter((f) => f.tax !== 0n),
    (f) => `${f.agency}|${f.account}`,
  )
  const taxes = [...byPlace.values()].map((of, at) => ({
    ...base,
    account: wrong === 1 && at === 0 ? '4000' : (of[0]?.account ?? '2299'),
    accountType: 'liability' as const,
    isTax: wrong !== 1 || at > 0,
    agency: wrong === 2 ? null : (of[0]?.agency ?? null),
    base: wrong === 3 ? 1n : sum(of.map((f) => f.base ?? 0n)),
    rateId: 'R',
    inBase: of[0]?.inBase ? sum(of.map((f) => f.inBase?.tax ?? 0n)) + (wrong === 6 ? 2n : 0n) : null,
    ...side(sum(of.map((f) => f.tax)) + (wrong === 4 && at === 0 ? 7n : 0n)),
  }))
  const nets = voice.nets.map((n, at) => ({
    ...base,
    account: wrong === 5 && at === 0 ? '4050' : (n.account ?? '4000'),
    accountType: 'income' as const,
    ...side(n.net),
  }))
  const owed = sum([...taxes, ...nets].map((l) => l.credit - l.debit))
  return {
    postingDate: dice.once(8) ? '2026-10-02' : document.documentDate,
    currency: document.currency,
    baseCurrency: 'USD',
    lines: [
      ...taxes,
      ...nets,
      { ...base, account: '1100', accountType: 'receivable' as const, ...side(-owed) },
    ],
  }
}

const said = (verdict: Verdict): string =>
  [
    verdict.proved ? 'proved' : verdict.notTaken ? 'not taken' : verdict.facets.join('+'),
    verdict.headline,
    verdict.missingWhy,
    `odd ${verdict.odd.join('+')}`,
    verdict.splitStated ? 'split' : 'no split',
    `net ${verdict.unprovedNet}`,
    ...verdict.unproved.map((u) => `${u.agency}@${u.account} ${u.currency} ${u.period}=${u.tax}`),
  ].join(' ')

function recomputable(seed: number): Recomputable & { readonly dice: Dice } {
  const { dice, document, index } = drawnCase(seed)
  const determination = determine(document, index)
  return { dice, document, determination, index, expected: expectedVoice(document, determination, index) }
}

/** What is said of three voices, each right or with a mistake in it. */
export function weighed(seed: number): string[] {
  const { dice, ...of } = recomputable(seed)
  const { document, expected } = of
  const byAgency = [
    ...groupBy(
      expected.facts.filter((f) => f.tax !== 0n || dice.once(2)),
      (f) => f.agency ?? '',
    ),
  ]
  const noSplit = dice.once(4)
  const off = dice.once(3) ? BigInt(dice.below(9)) - 4n : 0n
  const taxes = byAgency.map(([agency, facts], at) => ({
    rateId: 'R',
    agency: noSplit ? null : agency,
    base: dice.once(5) ? null : sum(facts.map((f) => f.base ?? 0n)),
    tax: sum(facts.map((f) => f.tax)) + (at === 0 ? off : 0n),
  }))
  const stated = statedVoice(document, taxes, sum(expected.nets.map((n) => n.net)) + (dice.once(6) ? 3n : 0n))
  const entry = entryOf(document, expected, dice)
  const asRead = bookedVoice([entry], ACCOUNTS)
  const unit = {
    stated,
    expected,
    expectedComplete: of.determination.complete,
    booked: [resolveAgencies(asRead, expected)],
    missingWhy: 'waiting' as const,
    voided: { source: false, ledger: false },
    edited: dice.once(7),
    otherRoundings: () => otherRoundings(of),
  }
  const twice = [
    ...unit.booked,
    resolveAgencies(bookedVoice([entryOf(document, expected, dice)], ACCOUNTS), expected),
  ]
  return [
    `${seed}: ${document.number}`,
    row('expected', signatureOf(expected, FINEST)),
    row('stated', signatureOf(stated, FINEST)),
    row('booked', signatureOf(asRead, FINEST)),
    row('is', said(judge(unit))),
    row('missing', said(judge({ ...unit, booked: [] }))),
    row(
      'kept out',
      said(judge({ ...unit, booked: [], missingWhy: dice.of(['draft', 'kind-off', 'out-of-range']) })),
    ),
    row('orphan', said(judge({ ...unit, stated: null, expected: null }))),
    row('twice', said(judge({ ...unit, booked: twice }))),
    row('void', said(judge({ ...unit, voided: { source: true, ledger: dice.once(2) } }))),
    row(
      'flawed',
      said(
        judge({
          ...unit,
          flaws: [dice.of(['agency', 'period', 'amount'])],
          undecided: BigInt(dice.below(2) * 900),
        }),
      ),
    ),
  ]
}

const BILLING = { systemId: 'billing' }
const DEPARTURES: readonly Assumption[] = [
  {
    ...BILLING,
    kind: 'component-percent',
    systemRateId: 'R',
    combinedRateId: 'hollow-rail',
    jurisdictionId: 'hollow',
    percent: 1_250_000n,
  },
  { ...BILLING, kind: 'liability-account', systemAgencyId: 'C', agencyId: 'county', account: '2214' },
  { ...BILLING, kind: 'flat-rate', systemRateId: 'F', percent: 7_000_000n },
  { ...BILLING, kind: 'default-code', itemTaxCode: 'GOODS', lineId: null },
]
const namesOf = ({ index }: Recomputable): Names => ({
  index,
  day: '2026-09-30',
  jurisdiction: (id) => `J ${id}`,
  agency: (id) => `A ${id}`,
  rate: (systemId, rateId) => `${systemId} R ${rateId}`,
  account: (systemId, number) => `${systemId} N ${number}`,
})

/** Every mistake that could have been made with a drawn document: what it would have come to, and what is found of it. */
export function found(seed: number): string[] {
  const { dice: _, ...of } = recomputable(seed)
  const lines = [`${seed}: ${of.document.number}`]
  const start = UNCHANGED(of.document)
  for (const assumption of [...DEPARTURES, ...candidatesOf(of)]) {
    const changed = assume(assumption, start, of)
    const voice = changed && recompute(changed, of)
    const named = reproducedFacts(assumption, 'Till', namesOf(of))
    lines.push(
      row(
        causeKey(assumption),
        changed ? (voice ? signatureOf(voice, FINEST) : 'nobody knows') : 'no concern',
      ),
      row(
        '',
        rankOf(assumption),
        sayReproduced(named, (iso) => `on ${iso}`),
      ),
    )
  }
  const made = candidatesOf(of)
  const mistake = made[seed % Math.max(made.length, 1)]
  const [first, second] = [mistake, made[(seed * 5) % Math.max(made.length, 1)]]
  const one = first && assume(first, start, of)
  const two = one && second && assume(second, one, of)
  for (const changed of [one, two]) {
    const odd = changed && recompute(changed, of)
    if (odd)
      lines.push(
        row(
          'reproduced by',
          diagnose(of, odd, DEPARTURES, 120).explanations.map(explanationKey).join(' ; ') || 'nothing',
        ),
      )
  }
  return lines
}
