import type {
  ConnectView,
  Evidence,
  PathView,
  PostView,
  RuleDraft,
  RulesTried,
  RulesView,
} from '@axion/contract'
import { selectorText } from '@axion/contract'
import { FERNHOLLOW, baselineOf, billingOf, ledgerOf } from '@axion/demo'
import { afterAll, beforeAll, describe, expect, it, test } from 'vitest'
import { changing } from '../src/database/connection.ts'
import { startRun } from '../src/jobs/runs.ts'
import { bookAll, makeWorld, MONTH, type World } from './world.ts'
import { draft } from './ruleDrafts.ts'

/** A tea house that types wrapping and deposits on its invoices by hand, with a tracking dimension in its ledger. */
let world: World
beforeAll(async () => {
  const ledger = ledgerOf(FERNHOLLOW)
  const dimension = (code: string, name: string, active: boolean) => ({
    resource: 'dimensions',
    id: `dim_${code}`,
    value: { dimension: 'Counter', code, name, active },
  })
  const objects = [
    ...ledger.objects,
    {
      resource: 'accounts',
      id: 'acct_5100',
      value: { number: '5100', name: 'Freight paid', type: 'expense' },
    },
    dimension('CAFE', 'Café', true),
    dimension('SHOP', 'Shop', false),
  ]
  world = await makeWorld({
    baseline: {
      ...baselineOf(FERNHOLLOW),
      rules: [],
      dimensions: ['CAFE', 'SHOP'].map((code) => ({ dimension: 'Counter', code, name: code })),
    },
    ledger: { ...ledger, objects },
    billing: billingOf(FERNHOLLOW, 5, 'http://127.0.0.1:1'),
    currency: 'EUR',
  })
  await world.run('/pulls', { systemIds: null })
  await world.ok('POST', `${MONTH}/links/clear`, { kinds: ['agencies', 'rates'] })
})
afterAll(() => world.close())

const WRAPPING = draft(
  'Wrapping',
  { text: 'gift wrapping' },
  { itemTaxCode: 'WARE', account: '4090', dimension: 'Counter: CAFE' },
)
const DEPOSIT = draft('Deposits', { text: 'deposit' }, { itemTaxCode: 'DEPOSIT', account: '2600' })
const view = (): Promise<RulesView> => world.ok('GET', `${MONTH}/rules`)
/** The list, as written from the one that stands. */
const asked = async (
  rules: readonly RuleDraft[],
): Promise<{ readonly rules: readonly RuleDraft[]; readonly standing: string }> => ({
  rules,
  standing: (await view()).standing,
})
const trying = async (rules: readonly RuleDraft[]): Promise<RulesTried> =>
  world.ok('POST', `${MONTH}/rules/try`, await asked(rules))
async function keep(rules: readonly RuleDraft[]): Promise<void> {
  await world.ok('PUT', `${MONTH}/rules`, {
    ...(await asked(rules)),
    revision: (await trying(rules)).revision,
  })
}
const kept = async (): Promise<RuleDraft[]> =>
  (await view()).rules.map(({ code, name, when, then, from, to }) => ({ code, name, when, then, from, to }))

describe('rules over lines', () => {
  it('begin with amounts that nothing decides, each with its documents', async () => {
    const { groups, open, rules, currency } = await view()
    expect([currency, open, rules.length]).toEqual(['EUR', 2, 0])
    expect(
      groups.map((g) => [g.what, g.wording, g.treatments, g.accounts, g.findings.map((f) => f.code)]),
    ).toEqual(
      expect.arrayContaining([
        ['no-item', 'Gift wrapping', [], ['4000 Sales'], ['AXION_AMOUNT_OPEN']],
        ['no-item', 'Deposit, returnable crate', [], ['4000 Sales'], ['AXION_AMOUNT_OPEN']],
      ]),
    )
    for (const group of groups) {
      const evidence = await world.ok<Extract<Evidence, { kind: 'members' }>>(
        'GET',
        `${MONTH}/evidence?open=${encodeURIComponent(selectorText({ of: 'lines', group: group.key }))}`,
      )
      expect([evidence.amount, evidence.members.length]).toEqual([group.amount, group.documents])
    }
  })

  it('are tried on what is there, and nothing of it is written', async () => {
    const { groups } = await view()
    const wraps = groups.find((g) => g.wording === 'Gift wrapping')?.documents ?? 0
    const tried = await trying([WRAPPING])
    expect(tried).toMatchObject({
      tried: 66,
      of: 66,
      changed: wraps,
      booked: 0,
      unknown: 0,
      taxBefore: null,
      known: { documents: wraps },
    })
    expect(tried.documents).toHaveLength(wraps)
    expect(tried.documents[0]).toMatchObject({
      taxBefore: null,
      currency: 'EUR',
      lines: [
        {
          text: 'Gift wrapping',
          changes: [
            { field: 'Item tax code', before: '', after: 'Ware for the table' },
            { field: 'Account', before: '4000', after: '4090' },
            { field: 'Dimensions', before: '', after: 'CAFE' },
          ],
        },
      ],
    })
    expect(tried.documents.every((one) => one.taxAfter !== null)).toBe(true)
    expect((await view()).rules).toEqual([])
  })

  test.each<[string, RuleDraft, number, string, RegExp]>([
    ['no condition', draft('x', {}, { account: '4090' }), 400, 'AXION_BAD_REQUEST', /at least one condition/],
    ['no outcome', draft('x', { text: 'a' }, {}), 400, 'AXION_BAD_REQUEST', /at least one outcome/],
    ['a text of spaces', draft('x', { text: '   ' }, { account: '4090' }), 400, 'AXION_BAD_REQUEST', /text/],
    [
      'an item that there is not',
      draft('x', { item: 'NONE' }, { account: '4090' }),
      422,
      'AXION_BASELINE_INCONSISTENT',
      /NONE/,
    ],
    [
      'a region that there is not',
      draft('x', { region: 'ZZ' }, { account: '4090' }),
      422,
      'AXION_BASELINE_INCONSISTENT',
      /ZZ/,
    ],
    [
      'a code that there is not',
      draft('x', { text: 'a' }, { itemTaxCode: 'NONE' }),
      422,
      'AXION_BASELINE_INCONSISTENT',
      /NONE/,
    ],
    [
      'a dimension that there is not',
      draft('x', { text: 'a' }, { dimension: 'Counter: NONE' }),
      422,
      'AXION_BASELINE_INCONSISTENT',
      /NONE/,
    ],
    [
      'an account that there is not',
      draft('x', { text: 'a' }, { account: '9999' }),
      422,
      'AXION_ACCOUNT_NOT_IN_LEDGER',
      /9999/,
    ],
    ['an account of tax', draft('x', { text: 'a' }, { account: '2500' }), 422, 'AXION_ACCOUNT_UNFIT', /2500/],
    [
      'an account of receivables',
      draft('x', { text: 'a' }, { account: '1200' }),
      422,
      'AXION_ACCOUNT_UNFIT',
      /1200/,
    ],
  ])('are refused with %s, by a sentence that names it', async (_, rule, status, code, says) => {
    const answer = await world.as('preparer', 'POST', `${MONTH}/rules/try`, await asked([rule]))
    expect([answer.statusCode, answer.json<{ code: string }>().code]).toEqual([status, code])
    expect(answer.body).toMatch(says)
  })

  it('are kept only as they were tried, by whoever may, and the trail says what was before', async () => {
    const { revision } = await trying([WRAPPING])
    expect((await world.as('viewer', 'POST', `${MONTH}/rules/try`, await asked([WRAPPING]))).statusCode).toBe(
      403,
    )
    expect(
      (await world.as('viewer', 'PUT', `${MONTH}/rules`, { ...(await asked([WRAPPING])), revision }))
        .statusCode,
    ).toBe(403)
    expect(
      (
        await world.as('preparer', 'PUT', `${MONTH}/rules`, {
          ...(await asked([WRAPPING, DEPOSIT])),
          revision,
        })
      ).json<{ code: string }>().code,
    ).toBe('AXION_STALE')
    const before = await asked([DEPOSIT])
    await keep([WRAPPING, DEPOSIT])
    // Whoever wrote from the list before is told so, and nothing of the new one is lost.
    for (const [method, path] of [
      ['POST', '/rules/try'],
      ['PUT', '/rules'],
    ] as const)
      expect(
        (
          await world.as('preparer', method, MONTH + path, {
            ...before,
            ...(method === 'PUT' ? { revision } : {}),
          })
        ).json<{ code: string; title: string }>(),
      ).toMatchObject({ code: 'AXION_STALE', title: expect.stringContaining('The list of rules') as string })
    const { rules, open, groups } = await view()
    expect(rules.map((rule) => [rule.code, rule.name])).toEqual([
      ['R1', 'Wrapping'],
      ['R2', 'Deposits'],
    ])
    expect(rules.every((rule) => rule.documents > 0)).toBe(true)
    expect([open, groups.map((g) => [g.wording, g.accounts, g.rules])]).toEqual([
      0,
      expect.arrayContaining([
        ['Gift wrapping', ['4090 Wrapping and extras'], ['Wrapping']],
        ['Deposit, returnable crate', ['2600 Deposits held'], ['Deposits']],
      ]),
    ])
    expect(await world.ownerSql(`select action from audit_entry where object = 'rules'`)).toEqual([
      { action: 'changed-rules' },
    ])
  })

  it('decide what is booked: account and dimension of the line stand in the ledger’s journal, and the month is proved but for what else is wrong', async () => {
    await world.run('/post/rehearsal')
    await bookAll(world)
    const lines = await world.ledgerSql<{ account: string; dimensions: string[]; n: number }>(
      `select line->>'accountId' as account, line->'dimensionIds' as dimensions, count(*)::int as n from object, jsonb_array_elements(value->'lines') line where resource = 'journal-entries' and line->>'accountId' in ('acct_4090', 'acct_2600') group by 1, 2 order by 1`,
    )
    const { groups } = await view()
    expect(lines).toEqual([
      {
        account: 'acct_2600',
        dimensions: [],
        n: groups.find((g) => g.wording.startsWith('Deposit'))?.documents,
      },
      {
        account: 'acct_4090',
        dimensions: ['dim_CAFE'],
        n: groups.find((g) => g.wording.startsWith('Gift'))?.documents,
      },
    ])
    const { checks } = (await world.ok<ConnectView>('GET', `${MONTH}/connect`)).systems.find(
      (s) => s.id === 'ledger',
    ) ?? { checks: [] }
    expect(checks.find((c) => c.code === 'accounts-there')?.state).toBe('passes')
    const astray = await world.ownerSql<{ n: number }>(
      `select count(*)::int as n from tie_unit u where not proved and exists (select 1 from net_fact s where s.unit_id = u.unit_id group by s.unit_id having count(*) filter (where voice = 'booked') > 0 and sum(net) filter (where voice = 'stated') <> sum(net) filter (where voice = 'booked') and not exists (select 1 from source_document d where d.system_id || '/' || d.document_id = u.named and (d.value->>'pricesIncludeTax')::boolean))`,
    )
    expect(astray).toEqual([{ n: 0 }])
  })

  it('when they change, say which bookings would go elsewhere, and put them up again', async () => {
    const [wrapping, deposits] = (await kept()) as [RuleDraft, RuleDraft]
    const elsewhere = { ...wrapping, then: { ...wrapping.then, account: '4000' } }
    const wraps = (await view()).rules[0]?.documents ?? 0
    expect(await trying([elsewhere, deposits])).toMatchObject({ changed: wraps, booked: wraps, unknown: 0 })
    const again = async (): Promise<number> =>
      (await world.ok<PostView>('GET', `${MONTH}/post?state=changed`)).rows.length
    const older = async (): Promise<boolean> =>
      (await world.ok<PathView>('GET', `${MONTH}/path`)).connect.limits.older !== null
    // Where they are many, nobody waits for it, and until they are compared no page says Yes.
    world.services.settings.AXION_AT_ONCE = 0
    await keep([elsewhere, deposits])
    world.services.settings.AXION_AT_ONCE = 2000
    const runs = await world.ownerSql<{ run_id: string; kind: string }>(
      `select run_id, kind from run where state = 'queued' order by kind desc`,
    )
    expect(runs.map(({ kind }) => kind)).toEqual(['prove', 'compare'])
    // Whoever takes a comparison over goes on where it came to.
    await world.ownerSql(`update run set report = '{"after": "~"}' where run_id = $1`, [runs[1]?.run_id])
    for (const { run_id: run } of runs) {
      expect([await again(), await older()]).toEqual([0, true])
      await world.finish(run)
    }
    expect([await again(), await older()]).toEqual([0, false])
    const { database } = world.services
    await world.finish(
      await changing(database, 'larkspur', (books) =>
        startRun(books, { kind: 'compare', payload: { from: '2026-09' }, startedBy: 'a test' }),
      ),
    )
    expect([await again(), await older()]).toEqual([wraps, false])
    // A value that is switched off in the ledger blocks, and names it.
    await keep([{ ...elsewhere, then: { ...elsewhere.then, dimension: 'Counter: SHOP' } }, deposits])
    await world.run('/post/rehearsal')
    const { rows } = await world.ok<PostView>('GET', `${MONTH}/post?state=blocked`)
    expect([
      rows.length,
      new Set(
        rows
          .flatMap((row) => row.remarks.filter((r) => r.blocks).map((r) => r.says))
          .map((says) => /no (.*) in use/.exec(says)?.[1]),
      ),
    ]).toEqual([wraps, new Set(['Counter: SHOP'])])
  })

  it('in another order decide otherwise, and their codes are never used twice', async () => {
    const all = draft('All of it', { region: 'XC' }, { account: '4090' })
    const [wrapping, deposits] = (await kept()) as [RuleDraft, RuleDraft]
    await keep([all, { ...wrapping, then: { ...wrapping.then, dimension: null } }, deposits])
    expect((await view()).groups.find((g) => g.wording.startsWith('Deposit'))?.accounts).toEqual([
      '2600 Deposits held',
      '4090 Wrapping and extras',
    ])
    await keep([deposits])
    await keep([...(await kept()), draft('Later', { text: 'gift wrapping' }, { itemTaxCode: 'WARE' })])
    expect((await view()).rules.map((rule) => rule.code)).toEqual(['R2', 'R4'])
    const answer = await world.as(
      'preparer',
      'POST',
      `${MONTH}/rules/try`,
      await asked([{ ...deposits, from: '2025-01-01' }, deposits]),
    )
    expect(answer.statusCode).toBe(200)
    const overlap = await world.as('preparer', 'PUT', `${MONTH}/rules`, {
      ...(await asked([{ ...deposits, from: '2025-01-01' }, deposits])),
      revision: answer.json<RulesTried>().revision,
    })
    expect(overlap.json<{ code: string }>().code).toBe('AXION_BASELINE_OVERLAP')
  })

  it('finds a catch-all that is taxed on some and not on others, and a cost that is taxed', async () => {
    const [deposits, later] = (await kept()) as [RuleDraft, RuleDraft]
    const [invoice] = await world.billingSql<{ id: string; lines: object[] }>(
      `select id, value->'lines' as lines from object where resource = 'documents' and value->>'pricesIncludeTax' = 'false' and value->'shipTo'->>'country' = 'XC' and value->'lines' @> '[{"description": "Gift wrapping"}]' limit 1`,
    )
    await world.billingSql(
      `update object set value = jsonb_set(value, '{lines}', $2::jsonb), revision = revision + 1, sequence = nextval('change_sequence') where resource = 'documents' and id = $1`,
      [
        invoice?.id,
        JSON.stringify(
          invoice?.lines.map((line) =>
            'description' in line && line.description === 'Gift wrapping'
              ? { ...line, taxRateId: null }
              : line,
          ),
        ),
      ],
    )
    await world.run('/pulls', { systemIds: ['billing'] })
    await keep([deposits, { ...later, then: { ...later.then, account: '5100' } }])
    const found = async (): Promise<[string, string[]][]> =>
      (await view()).groups.map((g) => [
        g.wording,
        g.findings.filter((f) => f.left === null).map((f) => f.code),
      ])
    expect(await found()).toEqual(
      expect.arrayContaining([
        ['Gift wrapping', ['AXION_AMOUNT_MIXED', 'AXION_COST_TAXED']],
        ['Deposit, returnable crate', []],
      ]),
    )
    const count = async (): Promise<number> =>
      (await world.ok<PathView>('GET', `${MONTH}/path`)).align.byKind.amounts
    expect([await count(), (await view()).findings]).toEqual([2, 2])
    // Left with a reason it counts no more, and stays in sight; the undo of it takes it up again.
    const rowId = (await view()).groups.find((g) => g.wording === 'Gift wrapping')?.rowId
    await world.ok('PUT', `${MONTH}/align/left`, {
      kind: 'amounts',
      rowId,
      code: 'AXION_AMOUNT_MIXED',
      systemId: null,
      reason: 'one of them was wrapped for free',
    })
    expect([await count(), (await view()).findings, await found()]).toEqual([
      1,
      1,
      expect.arrayContaining([['Gift wrapping', ['AXION_COST_TAXED']]]),
    ])
    await world.run('/pulls', { systemIds: ['billing'] })
    expect([
      await count(),
      (await view()).groups.find((g) => g.rowId === rowId)?.findings.map((f) => f.left?.reason ?? null),
    ]).toEqual([1, ['one of them was wrapped for free', null]])
    expect(
      (
        await world.as('preparer', 'PUT', `${MONTH}/align/left`, {
          kind: 'amounts',
          rowId,
          code: 'AXION_AMOUNT_OPEN',
          systemId: null,
          reason: 'none such',
        })
      ).statusCode,
    ).toBe(404)
  })

  it('come and go with the baseline as a spreadsheet', async () => {
    const before = await view()
    const csv = await world.as('viewer', 'GET', `${MONTH}/files/baseline/rules?format=csv`)
    expect([csv.statusCode, csv.body.split('\n').length]).toEqual([200, before.rules.length + 2])
  })
})
