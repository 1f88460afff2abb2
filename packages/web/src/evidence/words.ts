import type { Departure, Selector } from '@axion/contract'

const NOUNS: Readonly<Record<Selector['of'], string>> = {
  tax: 'tax',
  gap: 'difference',
  unproved: 'tax not proved',
  'unproved-net': 'untaxed sales not proved',
  stake: 'tax at stake',
  net: 'net',
  total: 'total',
  balance: 'account balance',
  lines: 'lines',
}

/** What an amount is, in words: "Expected tax, account 2212". */
export function nameOf(selector: Selector): string {
  const { of, voice, against, account } = selector
  const head =
    of === 'gap'
      ? `${voice ?? ''} less ${against ?? ''}`
      : [of === 'tax' || of === 'net' ? voice : '', NOUNS[of]].filter(Boolean).join(' ')
  const name = head.charAt(0).toUpperCase() + head.slice(1)
  return account ? `${name}, account ${account}` : name
}

/** "Expected tax of Hollis County Treasurer in 2212: 12.40 USD stored, 12.30 worked out." */
export function sayDeparture({ voice, kind, agency, account, currency, stored, worked }: Departure): string {
  const where = `${agency ? ` of ${agency}` : ''}${account ? ` in ${account}` : ''}`
  return `${voice === 'stated' ? 'Stated' : 'Expected'} ${kind}${where}: ${stored} ${currency} stored, ${worked} worked out.`
}
