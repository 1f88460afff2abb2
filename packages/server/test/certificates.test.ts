import type { AlignKind, CertificatesView, Evidence, GridRow, GridView } from '@axion/contract'
import { otherSystems, SEED } from '@axion/demo'
import { afterAll, beforeAll, describe, expect, it, test } from 'vitest'
import { demoPair, makeReadyWorld, MONTH, type World } from './world.ts'

let world: World
beforeAll(async () => {
  world = await makeReadyWorld({
    ...demoPair(),
    others: otherSystems(SEED),
  })
  await world.ok('POST', `${MONTH}/links/clear`, { kinds: ['agencies', 'rates', 'locations', 'methods'] })
})
afterAll(() => world.close())

const rowOf = async (kind: AlignKind, id: string): Promise<GridRow> =>
  (await world.ok<GridView>('GET', `${MONTH}/align/${kind}?limit=500`)).rows.find(
    (row) => row.id === id,
  ) as GridRow
const codesOf = async (id: string): Promise<string[]> =>
  (await rowOf('parties', id)).findings.map((f) => f.code.replace('AXION_', ''))
const certificates = (party: string): Promise<CertificatesView> =>
  world.ok<CertificatesView>('GET', `${MONTH}/certificates/${party}`)
const record = (party: string, body: object, who = 'preparer'): ReturnType<World['as']> =>
  world.as(who, 'PUT', `${MONTH}/certificates/${party}`, body)
const attach = (
  party: string,
  certificate: string,
  name: string,
  content: Buffer,
  who = 'preparer',
): ReturnType<World['upload']> =>
  world.upload(
    who,
    `${MONTH}/certificates/${party}/files?${new URLSearchParams({ certificate, name }).toString()}`,
    content,
  )
const PDF = Buffer.from('%PDF-1.4\n1 0 obj<<>>endobj\ntrailer<<>>\n%%EOF\n')
const PNG = Buffer.from(
  'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
  'base64',
)
const RENEWED = {
  number: 'WN-R-44071',
  reason: 'resale',
  regions: ['WN'],
  from: '2026-07-01',
  to: '2028-06-30',
}

describe('certificates', () => {
  it('show what was sold without one, and taxed in spite of one, with the documents', async () => {
    expect([await codesOf('cus_ostler'), await codesOf('cus_thistledown')]).toEqual([
      ['CERTIFICATE_EXPIRED', 'SALES_WITHOUT_CERTIFICATE'],
      ['PARTY_CLAIMS', 'SALES_TAXED_IN_SPITE'],
    ])
    const row = await rowOf('parties', 'cus_ostler')
    // Three hives of 330.00 at 5.5 %.
    expect(row.stake).toBe('54.45')
    expect(
      await world.ok<Evidence>(
        'GET',
        `${MONTH}/evidence?open=${encodeURIComponent(`of=stake&finding=${row.keys}`)}`,
      ),
    ).toMatchObject({ amount: '54.45', members: [{ detail: 'Ostler Nurseries' }] })
  })

  it('are recorded, cure what they cover, and are taken back', async () => {
    expect((await record('cus_ostler', RENEWED)).statusCode).toBe(200)
    expect(await codesOf('cus_ostler')).toEqual([])
    const [latest] = await world
      .ok<{ batches: { id: string; action: string }[] }>('GET', `${MONTH}/align/batches`)
      .then((a) => a.batches)
    expect(latest?.action).toBe('certificate')
    await world.run('/align/undo', { batchId: latest?.id })
    expect(await codesOf('cus_ostler')).toEqual(['CERTIFICATE_EXPIRED', 'SALES_WITHOUT_CERTIFICATE'])
    await record('cus_ostler', RENEWED)
    const [own] = (await certificates('cus_ostler')).certificates
    await record('cus_ostler', { ...RENEWED, code: own?.code, to: '2027-06-30' })
    expect((await certificates('cus_ostler')).certificates.map((c) => [c.number, c.from, c.to])).toEqual([
      ['WN-R-44071', '2026-07-01', '2027-06-30'],
      ['WN-R-11873', '2023-07-01', '2026-06-30'],
    ])
  })

  test.each<[string, string, object, number, string?]>([
    ['of nobody', 'nobody', RENEWED, 404],
    ['of a catch-all', 'cus_counter', RENEWED, 422],
    ['that ends before it begins', 'cus_ostler', { ...RENEWED, to: '2026-01-01' }, 400],
    ['for no region', 'cus_ostler', { ...RENEWED, regions: [] }, 400],
    ['for a region that the baseline lacks', 'cus_ostler', { ...RENEWED, regions: ['ZZ'] }, 422],
    ['under a code that is not theirs', 'cus_ostler', { ...RENEWED, code: 'crt_kestrel' }, 404],
    ['by a viewer', 'cus_ostler', RENEWED, 403, 'viewer'],
  ])('%s are refused', async (_, party, body, status, who) =>
    expect((await record(party, body, who)).statusCode).toBe(status),
  )

  it('have files, told by their content, handed out to be saved and never run', async () => {
    const code = (await certificates('cus_ostler')).certificates[0]?.code ?? ''
    expect((await attach('cus_ostler', code, '../../etc/scan "1".pdf', PDF)).statusCode).toBe(200)
    expect((await attach('cus_ostler', code, 'stamp.png', PNG)).statusCode).toBe(200)
    const [pdf, png] = (await certificates('cus_ostler')).certificates[0]?.files ?? []
    expect([pdf?.name, png?.name]).toEqual(['scan _1_.pdf', 'stamp.png'])
    const answer = await world.as('viewer', 'GET', `${MONTH}/attached/${pdf?.id}`)
    expect([
      answer.headers['content-type'],
      answer.headers['content-disposition'],
      answer.headers['x-content-type-options'],
      answer.headers['content-security-policy'],
    ]).toEqual([
      'application/pdf',
      `attachment; filename*=UTF-8''scan%20_1_.pdf`,
      'nosniff',
      `default-src 'none'; sandbox`,
    ])
    expect(answer.rawPayload.equals(PDF)).toBe(true)
    expect((await world.as('preparer', 'DELETE', `${MONTH}/attached/${pdf?.id}`)).statusCode).toBe(200)
    expect((await world.as('viewer', 'GET', `${MONTH}/attached/${pdf?.id}`)).statusCode).toBe(404)
    expect((await world.as('stranger', 'GET', `${MONTH}/attached/${png?.id}`)).statusCode).toBe(404)
  })

  test.each([
    ['invoice.exe', PDF, 'invoice.pdf'],
    ['scan', PDF, 'scan.pdf'],
    ['stamp.pdf', PNG, 'stamp.png'],
    ['Letter.PDF', PDF, 'Letter.PDF'],
  ])('named %s go out under the ending of what is in them', async (name, content, out) => {
    const code = (await certificates('cus_ostler')).certificates[0]?.code ?? ''
    const { file } = (await attach('cus_ostler', code, name, content)).json<{ file: string }>()
    const { headers } = await world.as('viewer', 'GET', `${MONTH}/attached/${file}`)
    expect(headers['content-disposition']).toBe(`attachment; filename*=UTF-8''${out}`)
  })

  test.each<[string, Buffer, number]>([
    ['a script named as a PDF', Buffer.from('<script>alert(1)</script>'), 422],
    ['nothing', Buffer.alloc(0), 422],
    ['an archive', Buffer.from([0x50, 0x4b, 3, 4, 20, 0, 0, 0, 8, 0]), 422],
    ['more than ten megabytes', Buffer.concat([PDF, Buffer.alloc(11 * 1024 * 1024)]), 413],
  ])('refuse %s', async (_, content, status) => {
    const code = (await certificates('cus_ostler')).certificates[0]?.code ?? ''
    expect((await attach('cus_ostler', code, 'letter.pdf', content)).statusCode).toBe(status)
  })
})

describe('documents that are not booked one to one', () => {
  it('are put at stake by their own system’s set-up, and open into a chain', async () => {
    const wrong = await rowOf('rates', 'WN-PLX')
    const keys = wrong.findings.filter((f) => f.systemId === 'pos')
    expect([keys.map((f) => f.code), wrong.documents > 25]).toEqual([['AXION_RATE_PERCENT'], true])
    const open = await world.ok<
      Evidence & { members: { label: string; amount: string; open: { unit: string } }[] }
    >('GET', `${MONTH}/evidence?open=${encodeURIComponent('of=stake&finding=pos|combined-rate|till_WN-PLX')}`)
    expect(open.members.length).toBeGreaterThan(10)
    const [member] = open.members
    const chain = await world.ok<
      Evidence & { chain: { role: string; title: string; silence: string | null }[] }
    >(
      'GET',
      `${MONTH}/evidence?open=${encodeURIComponent(`of=stake&finding=pos|combined-rate|till_WN-PLX&unit=${member?.open.unit}`)}`,
    )
    expect([chain.amount, chain.chain.map((link) => link.role), chain.chain[0]?.title]).toEqual([
      member?.amount,
      ['source', 'determination', 'booking', 'ledger', 'account'],
      `Receipt ${member?.label}`,
    ])
  })

  it('are taxed where their outlet is agreed to be, whatever their system says of it', async () => {
    expect((await rowOf('locations', 'MARKET')).findings.map((f) => f.code)).toEqual([
      'AXION_LOCATION_JURISDICTION',
    ])
    const { stake, documents } = await rowOf('locations', 'MARKET')
    expect([Number(stake) > 0, documents]).toEqual([true, 25])
  })

  it('leave a marketplace’s sales untaxed to the entity, and follow what is taken back at their source', async () => {
    const market = await world.ownerSql<{ expected: string; stated: string }>(
      `select coalesce(sum(f.tax) filter (where f.voice = 'expected'), 0)::text as expected, coalesce(sum(f.tax) filter (where f.voice = 'stated'), 0)::text as stated from unit u join document r using (entity_id, system_id, document_id) left join tax_fact f using (entity_id, unit_id) where u.system_id = 'commerce' and r.value->>'marketplace' is not null group by u.unit_id`,
    )
    expect([market.length, market.every((m) => m.expected === '0' && m.stated === '0')]).toEqual([8, true])
    const count = async (): Promise<number> =>
      (await world.ownerSql<{ n: number }>(`select count(*)::int as n from unit where system_id = 'pos'`))[0]
        ?.n ?? 0
    const before = await count()
    await world.desk('pos', 'remove', { resource: 'documents', id: 'rec_5001' })
    await world.run('/pulls', { systemIds: ['pos'] })
    expect([before, await count()]).toEqual([86, 85])
  })
})
