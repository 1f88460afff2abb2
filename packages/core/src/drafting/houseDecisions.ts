import { POSTED_BY_AGENCY, type PostingKind } from '../baseline/postingRule.ts'
import { foldName } from '../crosswalk/folding.ts'
import { chosenAmong, standingOf, type Decision, type Option, type DraftedParts } from './decision.ts'
import type { Holder } from './given.ts'
import type { Levying } from './levying.ts'
import { codeFrom, isCode } from './naming.ts'
import { salesAt } from './placeDecisions.ts'

/** How people pay, and places of one's own: known by the codes of the systems that have them. */
export function ownDecisions({ given, choices }: Levying): Decision[] {
  const coded = <T extends { readonly id: string; readonly code: string | null; readonly name: string }>(
    about: 'method' | 'location',
    of: (holder: Holder) => readonly T[],
    partsOf: (code: string, one: T) => DraftedParts,
  ): Decision[] => {
    const taken = new Set<string>()
    return given.holders.flatMap((holder) =>
      of(holder).flatMap((one): Decision[] => {
        const kind = about === 'method' ? 'payment-method' : 'location'
        const linked = given.linked(kind, holder.id, one.id)
        const own = linked ?? one.code
        // What bears the code of another's is the same one.
        if (isCode(own) && taken.has(own)) return []
        const code = isCode(own) ? own : codeFrom(one.name, taken)
        taken.add(code)
        const key = `${about}:${code}`
        const links =
          code === one.code
            ? []
            : [{ kind, holderId: holder.id, objectId: one.id, baselineId: code } as const]
        const options: Option[] = [{ key: 'one', holders: [holder.id], links, parts: partsOf(code, one) }]
        return [
          {
            ...{ key, about, name: one.name.trim(), called: [], doubts: [], standing: 'alone', options },
            ...{ chosen: chosenAmong(key, options, choices), needs: [], rests: [], against: [] },
          },
        ]
      }),
    )
  }
  return [
    ...coded(
      'method',
      ({ methods }) => methods,
      (id, { name, kind }) => ({ paymentMethods: [{ id, name, kind }] }),
    ),
    ...coded(
      'location',
      ({ locations }) => locations,
      (id, { name, timeZone, cutOff, address }) => ({
        locations: [{ id, name, timeZone, cutOff, address }],
      }),
    ),
  ]
}

/** Of which type the account of a kind of amount is, and by what such an account is commonly called. */
const ACCOUNTS: Readonly<
  Partial<Record<PostingKind, { readonly types: readonly string[]; readonly called: RegExp }>>
> = {
  receivable: { types: ['receivable'], called: /receivable|debtors|customers/ },
  revenue: { types: ['income'], called: /sales|revenue|turnover/ },
  shipping: { types: ['income'], called: /shipping|freight|delivery|postage|carriage/ },
  tax: { types: ['current-liability'], called: /tax/ },
}

/** Which ledger account each kind of amount goes to. */
export function postingDecisions(levying: Levying): Decision[] {
  const { given, agencies, places } = levying
  const ledger = given.holders.find(({ isLedger }) => isLedger)
  // A ledger whose accounts were not read yet says nothing of them.
  if (!ledger || ledger.accounts.length === 0) return []
  const ships = given.sales.some(({ document }) => document.lines.some(({ kind }) => kind === 'shipping'))
  const kinds: PostingKind[] = ['receivable', 'revenue', ...(ships ? (['shipping'] as const) : [])]
  const charging = new Set(places.all.flatMap(({ levied }) => levied?.agency ?? []))
  return [
    ...kinds.map((kind) =>
      postingOf(levying, ledger, { kind, agency: null, own: null, rests: restsOn(kind, levying) }),
    ),
    ...agencies.all
      .filter(({ code }) => charging.has(code))
      .map((agency) =>
        postingOf(levying, ledger, {
          kind: 'tax',
          agency,
          own: agency.account,
          rests: owedTo(agency.code, levying),
        }),
      ),
  ]
}

function restsOn(kind: PostingKind, { given }: Levying): string[] {
  const sales =
    kind === 'shipping'
      ? given.sales.filter(({ document }) => document.lines.some((line) => line.kind === 'shipping'))
      : given.sales
  return sales.map(({ id }) => id)
}

/** Documents that bear an agency's tax. */
function owedTo(agency: string, { places, regions }: Levying): string[] {
  const own = places.all.filter(({ levied }) => levied?.agency === agency)
  return salesAt(
    own.flatMap(({ cells }) => cells),
    regions,
  )
}

function postingOf(
  { given, choices }: Levying,
  ledger: Holder,
  of: {
    readonly kind: PostingKind
    readonly agency: { readonly code: string; readonly name: string } | null
    readonly own: string | null
    readonly rests: readonly string[]
  },
): Decision {
  const { kind, agency, own, rests } = of
  const { types = [], called = /$^/ } = ACCOUNTS[kind] ?? {}
  const fitting = ledger.accounts.filter(({ type }) => types.includes(type))
  const stated = fitting.find(({ number }) => number === own)
  const byName = fitting.filter(({ name }) => called.test(foldName(name)))
  const first = stated ?? (byName.length === 1 ? byName[0] : fitting.length === 1 ? fitting[0] : undefined)
  const key = `posting:${kind}${agency === null ? '' : `:${agency.code}`}`
  const options = [...(first ? [first] : []), ...fitting.filter((account) => account !== first)].map(
    (account): Option => ({
      key: account.number,
      holders: [ledger.id],
      links: [],
      parts: {
        postingRules: [
          {
            id: key,
            kind,
            agencyId: POSTED_BY_AGENCY.includes(kind) ? (agency?.code ?? null) : null,
            only: null,
            account: account.number,
            valid: { from: given.seen.from, to: null },
          },
        ],
      },
    }),
  )
  const doubts = stated !== undefined || fitting.length === 1 ? [] : (['nobody-says'] as const)
  return {
    key,
    about: 'posting',
    name: agency?.name ?? kind,
    called: [],
    doubts,
    standing: standingOf(doubts, [ledger.id]),
    options,
    chosen: chosenAmong(key, options, choices),
    needs: agency === null ? [] : [`agency:${agency.code}`],
    rests,
    against: [],
  }
}
