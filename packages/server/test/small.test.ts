import { selectorText, type Evidence, type GridView, type TieOutView } from '@axion/contract'
import {
  answersOf,
  baselineOf,
  billingOf,
  FERNHOLLOW,
  ledgerOf,
  purchasingOf,
  QUILLON,
  recoveredOf,
  SALTMARSH,
  type SmallEntity,
} from '@axion/demo'
import { describe, expect, test } from 'vitest'
import { bookAll, makeWorld, MONTH, type World } from './world.ts'

/** What is typed on invoices by hand stands under these. */
const rule = (code: string, text: string, itemTaxCode: string, account: string) => ({
  code,
  name: code,
  when: { text },
  then: { itemTaxCode, account },
  from: '2024-01-01',
  to: null,
})
const RULES = [rule('WRAP', 'gift wrapping', 'WARE', '4090'), rule('CRATE', 'deposit', 'DEPOSIT', '2600')]

/** What a tie-out's booked amounts come to, by document and agency. */
async function booked(world: World): Promise<Map<string, string>> {
  const rows = await world.ownerSql<{ number: string; agency: string; tax: string }>(
    `select u.number, f.agency, sum(f.tax)::text as tax from tax_fact f join tie_unit u using (entity_id, unit_id) where f.voice = 'booked' and u.entity_id = 'larkspur' group by 1, 2 having sum(f.tax) <> 0 order by 1, 2`,
  )
  return new Map(rows.map((row) => [`${row.number} ${row.agency}`, row.tax]))
}

describe('small entities, each with one thing wrong in its ledger', () => {
  test.each<[string, SmallEntity, number, string, string]>([
    ['a sales tax, its levy in another account', SALTMARSH, 4, 'liability-account', 'USD'],
    [
      'value added tax: reduced, zero, inside prices, one agency for several countries',
      FERNHOLLOW,
      5,
      'component-percent',
      'EUR',
    ],
    [
      'a regional tax on top of a federal one, in a currency without digits',
      QUILLON,
      6,
      'component-percent',
      'JPY',
    ],
  ])('%s', async (_, entity, seed, cause, currency) => {
    const world = await makeWorld({
      baseline: { ...baselineOf(entity), rules: entity.typed ? RULES : [] },
      ledger: ledgerOf(entity),
      billing: billingOf(entity, seed, 'http://127.0.0.1:1'),
      currency,
    })
    await world.run('/pulls', { systemIds: null })
    await world.ok('POST', `${MONTH}/links/clear`, { kinds: ['agencies', 'rates'] })
    const findings = (await world.ok<GridView>('GET', `${MONTH}/align/rates`)).byCode.map((c) => c.code)
    expect(findings).toEqual(cause === 'component-percent' ? ['AXION_RATE_PERCENT'] : [])
    await world.run('/post/rehearsal')
    await bookAll(world)
    const view = await world.ok<TieOutView>('GET', `${MONTH}/tie-out`)
    expect([view.currency, view.causes.map((c) => c.facts.kind)]).toEqual([currency, [cause]])

    const [remedy] = view.causes[0]?.remedies ?? []
    const { revision } = await world.ok<{ revision: string }>('POST', `${MONTH}/mend/preview`, { remedy })
    expect((await world.run('/mend', { remedy, revision })).problem).toBeNull()
    expect(await world.ok<TieOutView>('GET', `${MONTH}/tie-out`)).toMatchObject({
      causes: [],
      proved: answersOf(entity, seed).length,
    })
    const key = answersOf(entity, seed).flatMap(({ number, tax }) =>
      [...tax]
        .filter(([, amount]) => amount !== 0n)
        .map(([agency, amount]) => [`${number} ${agency}`, amount.toString()] as const),
    )
    expect([...(await booked(world))].sort()).toEqual([...key].sort())
    await world.close()
  })
})

describe('tax on what Fernhollow buys', () => {
  test('is analysed against the agreed rates, with what can be had back of it, as its own key says; its account is an asset, or that of the tax owed', async () => {
    const world = await makeWorld({
      baseline: {
        ...baselineOf(FERNHOLLOW),
        postingRules: baselineOf(FERNHOLLOW).postingRules.filter((one) => one.kind !== 'input-tax'),
      },
      ledger: ledgerOf(FERNHOLLOW),
      billing: billingOf(FERNHOLLOW, 5, 'http://127.0.0.1:1'),
      others: purchasingOf(FERNHOLLOW, 5),
      currency: 'EUR',
    })
    await world.run('/pulls', { systemIds: null })
    await world.ok('POST', `${MONTH}/links/clear`, { kinds: ['agencies', 'rates', 'items'] })
    const units = await world.ownerSql<{ number: string; unit: string; agrees: boolean }>(
      `select number, named as unit, members_agree as agrees from unit where not posted order by number`,
    )
    // A supplier rounds line by line: a cent may lie between, and no more of them than that.
    expect(units.filter((unit) => !unit.agrees).length).toBeLessThan(4)
    const recovered = [...recoveredOf(FERNHOLLOW, 5)]
    expect(units.map((unit) => unit.number)).toEqual(recovered.map(([number]) => number))
    expect(recovered.some(([, back]) => back !== 0n)).toBe(true)
    for (const [at, [, back]] of recovered.entries()) {
      const { kind, chain } = await world.ok<Extract<Evidence, { kind: 'chain' }>>(
        'GET',
        `${MONTH}/evidence?open=${encodeURIComponent(selectorText({ of: 'tax', voice: 'expected', agency: 'VTO', unit: units[at]?.unit }))}`,
      )
      const line = chain
        .find((link) => link.role === 'determination')
        ?.lines.find((one) => one.detail === 'of it recoverable')
      expect([kind, line?.credit ?? '0.00']).toEqual(['chain', (Number(back) / 100).toFixed(2)])
    }

    // No rule says yet where it goes: that comes first, and only an account that fits is taken.
    const { rows } = await world.ok<GridView>('GET', `${MONTH}/align/accounts`)
    expect([rows[0]?.id, rows[0]?.findings.map((f) => f.code)]).toEqual(['input-tax VTO', ['AXION_NO_RULE']])
    expect(rows.find((row) => row.id === 'revenue')?.moved).toBe('0.00')
    const { accounts } = await world.ok<{ accounts: { number: string }[] }>(
      'GET',
      `${MONTH}/align/accounts/choices?rule=input-tax%20VTO`,
    )
    expect(accounts.map((account) => account.number)).toEqual(['1450', '2500', '2510'])
    // An account that is kept for something else is not offered, and not taken.
    await world.ok('PUT', `${MONTH}/align/accounts/2510/purpose`, { kinds: ['tax'] })
    const offered = await world.ok<{ accounts: { number: string }[] }>(
      'GET',
      `${MONTH}/align/accounts/choices?rule=input-tax%20VTO`,
    )
    expect(offered.accounts.map((account) => account.number)).toEqual(['1450', '2500'])
    const kept = await world.as('preparer', 'POST', `${MONTH}/mend/preview`, {
      remedy: { kind: 'post-to', systemId: 'ledger', ruleId: 'input-tax VTO', account: '2510' },
    })
    expect([kept.statusCode, kept.json<{ title: string }>().title]).toEqual([
      422,
      expect.stringContaining('this one is kept for tax owed'),
    ])
    expect(
      (await world.as('preparer', 'PUT', `${MONTH}/align/accounts/9999/purpose`, { kinds: ['tax'] })).json(),
    ).toMatchObject({ code: 'AXION_ACCOUNT_NOT_IN_LEDGER' })
    expect(
      (await world.as('viewer', 'PUT', `${MONTH}/align/accounts/2510/purpose`, { kinds: [] })).statusCode,
    ).toBe(403)
    await world.ok('PUT', `${MONTH}/align/accounts/2510/purpose`, { kinds: [] })
    const refused = await world.as('preparer', 'POST', `${MONTH}/mend/preview`, {
      remedy: { kind: 'post-to', systemId: 'ledger', ruleId: 'input-tax VTO', account: '2390' },
    })
    expect([refused.statusCode, refused.json<{ code: string }>().code]).toEqual([422, 'AXION_ACCOUNT_UNFIT'])
    await world.close()
  })
})
