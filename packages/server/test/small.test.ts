import type { GridView, TieOutView } from '@axion/contract'
import { answersOf, baselineOf, billingOf, FERNHOLLOW, ledgerOf, QUILLON, SALTMARSH, type SmallEntity } from '@axion/demo'
import { describe, expect, test } from 'vitest'
import { makeWorld, MONTH, type World } from './world.ts'

/** What is typed on invoices by hand stands under these. */
const rule = (code: string, text: string, itemTaxCode: string, account: string) => ({ code, name: code, when: { text }, then: { itemTaxCode, account }, from: '2024-01-01', to: null })
const RULES = [rule('WRAP', 'gift wrapping', 'WARE', '4090'), rule('CRATE', 'deposit', 'DEPOSIT', '2600')]

/** What a tie-out's booked amounts come to, by document and agency. */
async function booked(world: World): Promise<Map<string, string>> {
  const rows = await world.ownerSql<{ number: string; agency: string; tax: string }>(`select u.number, f.agency, sum(f.tax)::text as tax from tax_fact f join tie_unit u using (entity_id, unit_id) where f.voice = 'booked' and u.entity_id = 'larkspur' group by 1, 2 having sum(f.tax) <> 0 order by 1, 2`)
  return new Map(rows.map((row) => [`${row.number} ${row.agency}`, row.tax]))
}

describe('small entities, each with one thing wrong in its ledger', () => {
  test.each<[string, SmallEntity, number, string, string]>([
    ['a sales tax, its levy in another account', SALTMARSH, 4, 'liability-account', 'USD'],
    ['value added tax: reduced, zero, inside prices, one agency for several countries', FERNHOLLOW, 5, 'component-percent', 'EUR'],
    ['a regional tax on top of a federal one, in a currency without digits', QUILLON, 6, 'component-percent', 'JPY'],
  ])('%s', async (_, entity, seed, cause, currency) => {
    const world = await makeWorld({ baseline: { ...baselineOf(entity), rules: entity.typed ? RULES : [] }, ledger: ledgerOf(entity), billing: billingOf(entity, seed, 'http://127.0.0.1:1'), currency })
    await world.run('/pulls', { systemIds: null })
    await world.ok('POST', `${MONTH}/links/clear`, { kinds: ['agencies', 'rates'] })
    const findings = (await world.ok<GridView>('GET', `${MONTH}/align/rates`)).byCode.map((c) => c.code)
    expect(findings).toEqual(cause === 'component-percent' ? ['AXION_RATE_PERCENT'] : [])
    await world.run('/post/rehearsal')
    await world.run('/post/runs', { states: ['rehearsed'] })
    await world.run('/pulls', { systemIds: null })
    const view = await world.ok<TieOutView>('GET', `${MONTH}/tie-out`)
    expect([view.currency, view.causes.map((c) => c.facts.kind)]).toEqual([currency, [cause]])

    const [remedy] = view.causes[0]?.remedies ?? []
    const { revision } = await world.ok<{ revision: string }>('POST', `${MONTH}/mend/preview`, { remedy })
    expect((await world.run('/mend', { remedy, revision })).problem).toBeNull()
    expect(await world.ok<TieOutView>('GET', `${MONTH}/tie-out`)).toMatchObject({ causes: [], proved: answersOf(entity, seed).length })
    const key = answersOf(entity, seed).flatMap(({ number, tax }) => [...tax].filter(([, amount]) => amount !== 0n).map(([agency, amount]) => [`${number} ${agency}`, amount.toString()] as const))
    expect([...(await booked(world))].sort()).toEqual([...key].sort())
    await world.close()
  })
})
