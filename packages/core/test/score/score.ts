import {
  agree,
  bookedVoice,
  causeKey,
  determine,
  diagnose,
  expectedVoice,
  explanationKey,
  judge,
  parsePercent,
  ranked,
  resolveAgencies,
  statedVoice,
  type Assumption,
  type BaselineIndex,
  type Determination,
  type EntryLine,
  type Explanation,
  type TaxDocument,
  type VoiceFacts,
} from '../../src/index.ts'
import { uniformInt } from 'pure-rand/distribution/uniformInt'
import { xoroshiro128plus } from 'pure-rand/generator/xoroshiro128plus'
import { reckon, rightWay, type Line, type Outcome, type Sale, type Way } from './calculator.ts'
import { KINDS, mistake, mistakesOf, type Draw, type Kind, type SystemMistakes } from './faults.ts'
import { documentOf, truth } from './truth.ts'
import { AGENCIES, accountOf, BASE, PLACES } from './world.ts'

export interface Tally {
  planted: number
  /** The planted cause is among the explanations that reproduce. */
  among: number
  first: number
  /** The month's other documents tell it apart, and it stands first. */
  tellable: number
  tellableFirst: number
}
export interface Score {
  readonly seed: number
  readonly right: number
  readonly calledDifferent: number
  readonly wronglyProved: number
  readonly singles: ReadonlyMap<Kind, Tally>
  readonly doubles: { planted: number; found: number; sized: number; explained: number }
  /** What of the planted was missed, told so that it can be looked into. */
  readonly missed: readonly string[]
}

export interface ScoreOptions {
  readonly seed: number
  readonly singles: number
  readonly doubles: number
}

const MONTH_OF = 60
/** Where a ledger puts the tax of a rate that names no agency. */
const NO_AGENCY_ACCOUNT = '2299'
const NET_ACCOUNTS = new Set(['4000', '4100'])
const TAX_ACCOUNTS = new Set(AGENCIES.map(accountOf))

interface Planted {
  readonly kinds: readonly Kind[]
  readonly sale: Sale
  readonly document: TaxDocument
  readonly determination: Determination
  readonly expected: VoiceFacts
  readonly outcome: Outcome
  readonly odd: VoiceFacts
  readonly voice: 'stated' | 'booked'
  readonly key: string
}

/** Plants faults in generated months and counts what the core makes of them. The same seed gives the same score. */
export function score({ seed, singles, doubles }: ScoreOptions): Score {
  const generator = xoroshiro128plus(seed)
  const draw: Draw = (from, to) => uniformInt(generator, from, to)
  const index = truth()
  const tallies = new Map<Kind, Tally>(
    KINDS.map((kind) => [kind, { planted: 0, among: 0, first: 0, tellable: 0, tellableFirst: 0 }]),
  )
  const result = {
    seed,
    right: 0,
    calledDifferent: 0,
    wronglyProved: 0,
    singles: tallies,
    doubles: { planted: 0, found: 0, sized: 0, explained: 0 },
    missed: [] as string[],
  }
  let [number, made] = [0, 0]
  while (made < singles + doubles) {
    const mistakes = mistakesOf(draw)
    const month: { planted: Planted; explanations: { readonly assumptions: Explanation }[] }[] = []
    for (let at = 0; at < MONTH_OF && made < singles + doubles; at++) {
      const sale = saleOf(`S-${++number}`, draw)
      const fine = judged(sale, index, reckon(sale, rightWay(sale)), 'booked')
      result.right++
      if (!fine.proved) note(result, 'calledDifferent', `${sale.number} is right and called different`)
      const pair = made >= singles
      const planted = plant(sale, index, mistakes, draw, pair ? 2 : 1, KINDS[made % KINDS.length] as Kind)
      if (!planted) continue
      made++
      const verdict = judged(planted.sale, index, planted.outcome, planted.voice)
      if (verdict.proved)
        note(result, 'wronglyProved', `${sale.number} ${planted.kinds.join(' + ')} is proved`)
      const explanations = diagnose(
        {
          document: planted.document,
          determination: planted.determination,
          expected: planted.expected,
          index,
        },
        planted.odd,
        departures(mistakes),
      ).explanations.map((assumptions) => ({ assumptions }))
      if (pair) {
        result.doubles.planted++
        if (!verdict.proved) result.doubles.found++
        if (
          verdict.unproved ===
          sizeOf(reckon(planted.sale, rightWay(planted.sale)), planted.outcome, planted.voice)
        )
          result.doubles.sized++
        else
          result.missed.push(
            `${sale.number} ${planted.kinds.join(' + ')}: sized ${verdict.unproved}, not ${sizeOf(reckon(planted.sale, rightWay(planted.sale)), planted.outcome, planted.voice)}`,
          )
        if (explanations.length > 0) result.doubles.explained++
      } else month.push({ planted, explanations })
    }
    tally(month, tallies, result.missed)
  }
  return result
}

function note(
  result: { calledDifferent: number; wronglyProved: number; missed: string[] },
  what: 'calledDifferent' | 'wronglyProved',
  words: string,
): void {
  result[what]++
  result.missed.push(words)
}

/** Equals are ranked over the month, as the application ranks them. */
function tally(
  month: readonly { planted: Planted; explanations: readonly { readonly assumptions: Explanation }[] }[],
  tallies: ReadonlyMap<Kind, Tally>,
  missed: string[],
): void {
  const explains = new Map<string, number>()
  for (const { explanations } of month)
    for (const { assumptions } of explanations)
      explains.set(explanationKey(assumptions), (explains.get(explanationKey(assumptions)) ?? 0) + 1)
  const weight = ({ assumptions }: { readonly assumptions: Explanation }): number =>
    explains.get(explanationKey(assumptions)) ?? 0
  for (const { planted, explanations } of month) {
    const [kind] = planted.kinds
    const tallied = kind && tallies.get(kind)
    if (!tallied) continue
    tallied.planted++
    const isIt = ({ assumptions }: { readonly assumptions: Explanation }): boolean =>
      assumptions.length === 1 && assumptions[0]?.kind === kind
    const own = explanations.filter(isIt)
    if (own.length === 0) {
      missed.push(
        `${planted.sale.number} ${kind}: ${explanations.map(({ assumptions }) => assumptions.map(causeKey).join(' + ')).join(' or ') || 'unexplained'}`,
      )
      continue
    }
    tallied.among++
    const [first] = ranked(explanations, weight)
    const isFirst = first !== undefined && isIt(first)
    if (isFirst) tallied.first++
    const rivals = explanations.filter((e) => !isIt(e))
    if (rivals.every((rival) => weight(rival) < Math.max(...own.map(weight)))) {
      tallied.tellable++
      if (isFirst) tallied.tellableFirst++
    }
  }
}

/** A sale of any kind, drawn. */
export function saleOf(number: string, draw: Draw): Sale {
  const one = <T>(of: readonly T[]): T => of[draw(0, of.length - 1)] as T
  const currency = draw(0, 5) === 0 ? one(['EUR', 'JPY', 'KWD']) : BASE
  const goods = Array.from({ length: draw(1, 4) }, (_, at): Line => {
    const quantity = BigInt(draw(1, 9))
    return {
      id: String(at + 1),
      kind: 'goods',
      code: draw(0, 3) === 0 ? 'FOOD' : 'GOODS',
      quantity,
      amount: quantity * BigInt(draw(150, 48_997)),
    }
  })
  const place = one(PLACES).id
  const inside = draw(0, 6) === 0
  const shipping: Line[] =
    draw(0, 1) === 0
      ? []
      : [{ id: 'ship', kind: 'shipping', code: 'SHIP', quantity: 1n, amount: BigInt(draw(499, 4_999)) }]
  const day = draw(1, 30)
  const total = goods.reduce((sum, line) => sum + line.amount, 0n)
  return {
    number,
    kind: draw(0, 9) === 0 ? 'credit-note' : 'invoice',
    date: `2026-${draw(0, 3) === 0 ? '08' : '09'}-${String(day).padStart(2, '0')}`,
    place,
    party: one(['plain', 'plain', 'plain', 'farm', 'lapsed'] as const),
    currency,
    inside,
    discount: draw(0, 2) === 0 ? total / BigInt(draw(8, 20)) : 0n,
    lines: [...goods, ...shipping],
    names: draw(0, 2) === 0 ? one(PLACES).id : null,
  }
}

/** A sale with a mistake that shows: in another tax, account, net or amount in the base currency. Draws sales until one does. */
function plant(
  first: Sale,
  index: BaselineIndex,
  mistakes: SystemMistakes,
  draw: Draw,
  many: 1 | 2,
  kind: Kind,
): Planted | null {
  let sale = first
  for (let tries = 0; tries < 400; tries++) {
    const right = rightWay(sale)
    const kinds =
      many === 1
        ? [kind]
        : [KINDS[draw(0, KINDS.length - 1)] as Kind, KINDS[draw(0, KINDS.length - 1)] as Kind]
    const ways = kinds.map((k) => mistake(k, sale, right, mistakes, draw))
    const differ =
      new Set(kinds).size === kinds.length &&
      !(
        kinds.includes('flat-rate') &&
        kinds.some((k) => ['liability-account', 'one-agency', 'component-lost'].includes(k))
      )
    if (differ && ways.every((w) => w !== null)) {
      const outcome = reckon(sale, Object.assign({}, right, ...ways) as Way)
      const document = documentOf(sale)
      const determination = determine(document, index)
      const expected = expectedVoice(document, determination, index)
      // A source states neither account nor what it comes to in another currency.
      const needsLedger = kinds.some((k) => ['liability-account', 'exchange-at-one'].includes(k))
      const voice = needsLedger || draw(0, 1) === 0 ? 'booked' : 'stated'
      const odd = voice === 'booked' ? ledgerVoice(sale, outcome, expected) : sourceVoice(document, outcome)
      // Of two mistakes each has to show by itself as well, or only one was made.
      const shows = ways.every(
        (way) => !agree(ledgerVoice(sale, reckon(sale, { ...right, ...way }), expected), expected),
      )
      if (determination.complete && shows && !agree(odd, expected))
        return { kinds, sale, document, determination, expected, outcome, odd, voice, key: sale.number }
    }
    sale = saleOf(first.number, draw)
  }
  return null
}

/** The verdict on a sale with one odd voice, the others being right. */
function judged(
  sale: Sale,
  index: BaselineIndex,
  outcome: Outcome,
  voice: 'stated' | 'booked',
): { proved: boolean; unproved: bigint } {
  const document = documentOf(sale)
  const determination = determine(document, index)
  const expected = expectedVoice(document, determination, index)
  const right = reckon(sale, rightWay(sale))
  const verdict = judge({
    stated: sourceVoice(document, voice === 'stated' ? outcome : right),
    expected,
    expectedComplete: determination.complete,
    booked: [ledgerVoice(sale, voice === 'stated' ? right : outcome, expected)],
    missingWhy: 'waiting',
    edited: false,
    voided: { source: false, ledger: false },
    otherRoundings: () => [],
  })
  return { proved: verdict.proved, unproved: verdict.unproved.reduce((sum, m) => sum + m.tax, 0n) }
}

function ledgerVoice(
  sale: Sale,
  { taxes, net, shipping, currency, date }: Outcome,
  expected: VoiceFacts,
): VoiceFacts {
  const line = (account: string, credit: bigint, more: Partial<EntryLine>): EntryLine => ({
    account,
    accountType: 'other',
    isTax: false,
    agency: null,
    debit: credit < 0n ? -credit : 0n,
    credit: credit > 0n ? credit : 0n,
    base: null,
    rateId: null,
    inBase: null,
    ...more,
  })
  const lines = [
    line('4000', net - shipping, { accountType: 'income' }),
    line('4100', shipping, { accountType: 'income' }),
    ...taxes.map((t) =>
      line(t.account ?? NO_AGENCY_ACCOUNT, t.tax, {
        isTax: true,
        accountType: 'liability',
        agency: t.agency,
        base: t.base,
        rateId: sale.place,
        inBase: t.inBase,
      }),
    ),
  ]
  return resolveAgencies(
    bookedVoice([{ postingDate: date, currency, baseCurrency: BASE, lines }], {
      taxAccounts: TAX_ACCOUNTS,
      netAccounts: NET_ACCOUNTS,
      owingAccounts: new Set(),
      roundingAccounts: new Set(),
    }),
    expected,
  )
}

function sourceVoice(document: TaxDocument, { taxes, net }: Outcome): VoiceFacts {
  return statedVoice(
    document,
    taxes.map((t) => ({ rateId: 'r', agency: t.agency, base: t.base, tax: t.tax })),
    net,
  )
}

/**
 * Too much and too little apart, the larger counted (K9), worked out here once more: by account where the ledger names no agency,
 * by agency where a source names no account. Where the document's amounts agree and the base currency's do not, that difference counts.
 */
function sizeOf(right: Outcome, wrong: Outcome, voice: 'stated' | 'booked'): bigint {
  const splits = wrong.taxes.every((t) => t.agency !== null)
  const cells = new Map<string, { over: bigint; inBase: bigint }>()
  const put = (of: Outcome, sign: bigint): void =>
    of.taxes.forEach((t) => {
      const key = `${splits ? t.agency : ''}|${voice === 'booked' ? (t.account ?? NO_AGENCY_ACCOUNT) : ''}`
      const cell = cells.get(key) ?? { over: 0n, inBase: 0n }
      cells.set(key, { over: cell.over + sign * t.tax, inBase: cell.inBase + sign * (t.inBase ?? 0n) })
    })
  put(right, -1n)
  put(wrong, 1n)
  const total = (of: readonly bigint[]): bigint => of.reduce((sum, n) => sum + (n < 0n ? -n : n), 0n)
  const all = [...cells.values()]
  const [over, under] = [
    total(all.map((c) => c.over).filter((n) => n > 0n)),
    total(all.map((c) => c.over).filter((n) => n < 0n)),
  ]
  return (
    (over > under ? over : under) +
    (voice === 'booked' ? total(all.filter((c) => c.over === 0n).map((c) => c.inBase)) : 0n)
  )
}

/** What the systems' snapshots show: the wrong percent and account, the flat rate, the default code. */
function departures({ percents, accounts, flat, defaultCode }: SystemMistakes): Assumption[] {
  return [
    ...[...percents].map(([key, percent]): Assumption => ({
      kind: 'component-percent',
      systemId: 's',
      systemRateId: key.split('|')[0] ?? '',
      combinedRateId: key.split('|')[0] ?? '',
      jurisdictionId: key.split('|')[1] ?? '',
      percent: parsePercent(percent),
    })),
    ...[...accounts].map(([agencyId, account]): Assumption => ({
      kind: 'liability-account',
      systemId: 's',
      systemAgencyId: agencyId,
      agencyId,
      account,
    })),
    { kind: 'flat-rate', systemId: 's', systemRateId: 'flat', percent: parsePercent(flat) },
    { kind: 'default-code', systemId: 's', itemTaxCode: defaultCode, lineId: null },
  ]
}

/** Over all kinds: how many singles have their cause among the equals, and how many stand first where that can be told. */
export function totals({ singles }: Score): Tally {
  return [...singles.values()].reduce(
    (sum, t) => ({
      planted: sum.planted + t.planted,
      among: sum.among + t.among,
      first: sum.first + t.first,
      tellable: sum.tellable + t.tellable,
      tellableFirst: sum.tellableFirst + t.tellableFirst,
    }),
    { planted: 0, among: 0, first: 0, tellable: 0, tellableFirst: 0 },
  )
}
