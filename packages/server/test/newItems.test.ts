import type { BatchView, PostView } from '@axion/contract'
import { baseline } from '@axion/demo'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { agreedOn } from '../src/post/newItems.ts'
import { makeReadyWorld, MONTH, plainBilling, type World } from './world.ts'

const LACKING = ['SMOKER', 'HONEY-5', 'INSPECT']
/** Three items that invoices name and nobody agreed upon: on no code of its own, under a code that is agreed, and under one that is not. */
let world: World
beforeAll(async () => {
  const { settings, objects } = plainBilling(11)
  const codes: Readonly<Record<string, string | null>> = { item_SMOKER: null, item_INSPECT: 'WORK' }
  const billing = {
    settings,
    objects: objects.map((o) =>
      o.id in codes ? { ...o, value: { ...(o.value as object), itemTaxCode: codes[o.id] } } : o,
    ),
  }
  world = await makeReadyWorld({
    billing,
    baseline: { ...baseline(), items: baseline().items.filter(({ code }) => !LACKING.includes(code)) },
  })
})
afterAll(() => world.close())

const agree = (newItems: string | undefined): Promise<unknown> =>
  world.ok('PUT', `${MONTH}/align/defaults`, { itemTaxCode: 'GOODS', partiesTaxable: true, newItems })
const remarks = async (): Promise<string[]> =>
  [
    ...new Set(
      (await world.ok<PostView>('GET', `${MONTH}/post?limit=500`)).rows.flatMap((row) =>
        row.remarks
          .filter(({ code }) => code.startsWith('AXION_ITEM'))
          .map(({ says }) => says.replace(/on \S+ /, '')),
      ),
    ),
  ].sort()
const agreed = (): Promise<{ id: string; code: string }[]> =>
  world.ownerSql(
    `select object_id as id, item_tax_code as code from item where entity_id = 'larkspur' and upper_inf(recorded) and object_id = any($1) order by 1`,
    [LACKING],
  )
async function postOne(item: string): Promise<string> {
  const [found] = await world.ownerSql<{ unit: string }>(
    `select d.system_id || '/' || d.document_id as unit from source_document d left join booking b using (entity_id, system_id, document_id) where d.period = '2026-09' and d.value->'lines' @> $1::jsonb and coalesce(b.state, 'rehearsed') = 'rehearsed' order by d.number limit 1`,
    [JSON.stringify([{ itemCode: item }])],
  )
  await world.run('/post/runs', { units: [found?.unit ?? ''] })
  return found?.unit ?? ''
}

describe('items that only documents name', () => {
  it('are left open where two systems have them under different codes', () => {
    const item = (id: string, itemTaxCode: string, system: string) => ({ id, name: id, itemTaxCode, system })
    const taken = agreedOn(
      new Map([
        ['a/1', [item('WAX', 'GOODS', 'A'), item('JAR', 'GOODS', 'A')]],
        ['b/1', [item('WAX', 'FOOD', 'B')]],
        ['b/2', [item('JAR', 'GOODS', 'B')]],
      ]),
    )
    expect([...taken].map(([document, own]) => [document, own.map(({ id }) => id)])).toEqual([
      ['a/1', ['JAR']],
      ['b/2', ['JAR']],
    ])
  })

  it('are left open by a posting unless somebody chose otherwise, whatever the baseline is imported without', async () => {
    await postOne('SMOKER')
    expect([await remarks(), await agreed()]).toEqual([[], []])
    await agree(undefined)
    await postOne('SMOKER')
    expect([await remarks(), await agreed()]).toEqual([[], []])
    expect(
      (
        await world.as('viewer', 'PUT', `${MONTH}/align/defaults`, {
          itemTaxCode: 'GOODS',
          partiesTaxable: true,
          newItems: 'taken-in',
        })
      ).statusCode,
    ).toBe(403)
    expect(
      (
        await world.as('preparer', 'PUT', `${MONTH}/align/defaults`, {
          itemTaxCode: 'GOODS',
          partiesTaxable: true,
          newItems: 'always',
        })
      ).statusCode,
    ).toBe(400)
  })

  it('are announced by a rehearsal that takes none in', async () => {
    await agree('taken-in')
    await world.run('/post/rehearsal')
    expect([await remarks(), await agreed()]).toEqual([
      [
        'The item “Clover honey, 500 g jar” is not in the baseline: posting takes it in, under Food for people.',
        'The item “Smoker, stainless steel” is not in the baseline: posting takes it in, under Hives and equipment.',
      ],
      [],
    ])
  })

  it('are then taken in by the posting of the documents that name them, under their system’s code or the agreed default, and never silently', async () => {
    const unit = await postOne('SMOKER')
    const taken = await agreed()
    expect(taken).toContainEqual({ id: 'SMOKER', code: 'GOODS' })
    expect(taken.map(({ id }) => id)).not.toContain('INSPECT')
    expect(
      (await remarks()).some(
        (says) =>
          says ===
          'The item “Smoker, stainless steel” was not in the baseline: the posting took it in, under Hives and equipment.',
      ),
    ).toBe(true)
    expect(
      await world.ownerSql(
        `select person, action, object from audit_entry where action = 'taken-in' and object like '%Smoker%'`,
      ),
    ).toEqual([{ person: 'preparer', action: 'taken-in', object: 'Billing: Smoker, stainless steel' }])
    // What it comes to is known at once, in every month.
    expect(
      await world.ownerSql(
        `select 1 from tie_unit u join source_document d on u.named = d.system_id || '/' || d.document_id where u.cause is not null and u.named = $1 and u.assumptions::text like '%SMOKER%'`,
        [unit],
      ),
    ).toEqual([])
    await postOne('SMOKER')
    expect((await agreed()).filter(({ id }) => id === 'SMOKER')).toHaveLength(1)
  })

  it('under a code that nobody agreed upon stay open, and what was taken in is taken back at once', async () => {
    await postOne('INSPECT')
    expect((await agreed()).map(({ id }) => id)).not.toContain('INSPECT')
    const { batches } = await world.ok<{ batches: BatchView[] }>('GET', `${MONTH}/align/batches`)
    const batch = batches.find((one) => one.action === 'take-in' && one.says.startsWith('Smoker'))
    expect([batch?.canUndo, batch?.says]).toEqual([true, expect.stringMatching(/by a posting$/)])
    expect((await world.run('/align/undo', { batchId: batch?.id })).state).toBe('done')
    expect((await agreed()).map(({ id }) => id)).not.toContain('SMOKER')
  })
})
