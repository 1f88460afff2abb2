import type { CauseFacts } from '@axion/contract'
import { absolute, leavesOpen, netGaps, sum, type VoiceFacts } from '@axion/core'
import type { SourceUnit } from '../documents/units.ts'
import type { Unit } from './gather.ts'

/** What a unit's trouble is beside its tax, as it is kept with it. */
export type Matter = Extract<CauseFacts, { readonly kind: 'undecided' | 'flawed' | 'moved' }>

/** What was not read comes first; a line that nobody decided comes before revenue that was moved; null where neither is the matter. */
export function matterOf(
  { source, expected, edited, flaws }: Unit,
  booked: VoiceFacts | null,
): Matter | null {
  if (!source) return null
  const [flaw] = flaws
  if (flaw) return { kind: 'flawed', code: flaw.code, facts: flaw.facts }
  return undecidedIn(source) ?? (booked && movedIn(expected, booked, { edited }))
}

/** What the lines come to, in the document's currency, of which nobody can say the tax yet. */
export function undecidedNet({ determination: { lines, open } }: SourceUnit): bigint {
  return sum(lines.filter((line) => open.includes(line.lineId)).map((line) => absolute(line.net)))
}

function undecidedIn({ determination, decoded, document }: SourceUnit): Matter | null {
  const finding = determination.findings.find(leavesOpen)
  if (!finding) return null
  // A credit note's findings name the lines of its original.
  const id = finding.facts['line']
  const own = document.lines.find((line) => line.id === id || line.credits === id)?.id ?? id
  const wording = decoded.lines.find((line) => line.id === own)?.description ?? null
  return { kind: 'undecided', code: finding.code, facts: finding.facts, wording }
}

function movedIn(
  expected: VoiceFacts,
  booked: VoiceFacts,
  { edited }: { readonly edited: boolean },
): Matter | null {
  const gaps = netGaps(expected, booked).filter((gap) => gap.account !== null && !gap.isRounding)
  const owed = edited ? owedGaps(expected, booked) : []
  const of = gaps.length > 0 ? gaps.map(({ account, gap }) => ({ account, gap })) : owed
  if (of.length < 2 || sum(of.map(({ gap }) => gap)) !== 0n) return null
  const belongs = new Set([...expected.nets, ...(expected.owed ?? [])].map(({ account }) => account))
  const numbers = (within: boolean): string[] =>
    of
      .filter(({ account }) => belongs.has(account) === within)
      .map(({ account }) => account ?? '')
      .sort()
  return { kind: 'moved', from: numbers(true), to: numbers(false) }
}

function owedGaps(
  expected: VoiceFacts,
  booked: VoiceFacts,
): { readonly account: string | null; readonly gap: bigint }[] {
  const gaps = new Map<string | null, bigint>()
  for (const { account, amount } of expected.owed ?? []) gaps.set(account, (gaps.get(account) ?? 0n) - amount)
  for (const { account, amount } of booked.owed ?? []) gaps.set(account, (gaps.get(account) ?? 0n) + amount)
  return [...gaps]
    .map(([account, gap]) => ({ account, gap }))
    .filter(({ account, gap }) => account !== null && gap !== 0n)
}

/** Documents with the same matter share this. */
export function matterKey(matter: Matter): string {
  switch (matter.kind) {
    case 'undecided':
      return [
        'undecided',
        matter.code,
        matter.wording ?? matter.facts['address'] ?? matter.facts['region'] ?? '',
      ]
        .join('|')
        .slice(0, 380)
    case 'flawed':
      return ['flawed', matter.code, matter.facts['system'] ?? '', matter.facts['agency'] ?? '']
        .join('|')
        .slice(0, 380)
    case 'moved':
      return ['moved', matter.from.join('+'), matter.to.join('+')].join('|').slice(0, 380)
  }
}
