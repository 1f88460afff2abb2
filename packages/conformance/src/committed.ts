import { decodeCommitted, type About, type Agency, type Committed, type TaxRate } from '@axion/contract'
import { valuesOf, type Answer, type Client } from './client.ts'
import { must, mustRefuse, type Report } from './report.ts'

/** What a tax service keeps adds up, and names rates and agencies that there are. */
export async function committedChecks(report: Report, client: Client): Promise<void> {
  await report.rule(
    'what is kept of documents adds up, and names rates and agencies that there are',
    async () => {
      const rates = await valuesOf<TaxRate>(client, 'tax-rates')
      const agencies = await valuesOf<Agency>(client, 'agencies')
      for (const [id, kept] of await valuesOf<Committed>(client, 'committed')) {
        decodeCommitted(kept)
        const rate = kept.taxes.find(({ taxRateId }) => !rates.has(taxRateId))?.taxRateId
        must(rate === undefined, `${id} names the rate ${rate}, which there is not`)
        const agency = kept.taxes
          .flatMap(({ components }) => components ?? [])
          .find(({ agencyId }) => !agencies.has(agencyId))?.agencyId
        must(agency === undefined, `${id} names the agency ${agency}, which there is not`)
      }
    },
  )
}

/** It is told of a document under a key, once; of what became of it under its revision; and keeps one that was cancelled as such. */
export async function tellingChecks(
  report: Report,
  client: Client,
  { takes, creates }: About,
): Promise<void> {
  if (!takes.includes('committed') || !creates.includes('committed')) {
    report.skip('telling of documents', 'it is told of none')
    return
  }
  await report.rule(
    'a document is told under a key, once, and changed under its revision alone',
    async () => {
      const [first] = (await client.all('committed')).filter(({ removed }) => !removed)
      must(first, 'nothing is kept to make another like')
      const mark = `TEST-${Date.now().toString(36)}`
      const value = { ...(first.value as Committed), number: mark, documentId: mark, status: 'committed' }
      const make = (body: object, key: string | null): Promise<Answer> =>
        client.ask('POST', '/committed', {
          body,
          ...(key === null ? {} : { headers: { 'idempotency-key': key } }),
        })
      mustRefuse(await make(value, null), 400, 'a document without a key')
      const made = await make(value, mark)
      must(made.status === 201, `a document that is told answers ${made.status}, not 201`)
      const { id, revision } = made.body as { id: string; revision: string }
      must(((await make(value, mark)).body as { id: string }).id === id, 'the same key keeps a second one')
      mustRefuse(
        await make({ ...value, number: `${mark}-2` }, mark),
        422,
        'the same key with another document',
      )
      mustRefuse(await make(value, `${mark}-2`), 409, 'what is kept already')
      const cancel = (headers: Readonly<Record<string, string>>): Promise<Answer> =>
        client.ask('PATCH', `/committed/${encodeURIComponent(id)}`, {
          body: { status: 'cancelled' },
          headers,
        })
      mustRefuse(await cancel({}), 428, 'a cancel without If-Match')
      mustRefuse(await cancel({ 'if-match': `"${revision}0"` }), 412, 'a cancel under another revision')
      must((await cancel({ 'if-match': `"${revision}"` })).status === 200, 'a cancel is not taken')
      const now = (await client.all('committed')).find((item) => item.id === id)
      must(
        now !== undefined && !now.removed && (now.value as Committed).status === 'cancelled',
        'what was cancelled is not kept as cancelled',
      )
    },
  )
}
