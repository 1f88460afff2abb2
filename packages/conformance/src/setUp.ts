import { SET_UP_TAKEN, type About } from '@axion/contract'
import { must, mustRefuse, type Report } from './check.ts'
import type { Client } from './client.ts'

/** Set-up that may be changed: under its revision alone, and by nothing but the fields that are given. */
export async function setUpChecks(report: Report, client: Client, { resources, takes }: About): Promise<void> {
  for (const resource of SET_UP_TAKEN.filter((one) => resources.includes(one))) {
    if (!takes.includes(resource)) {
      report.skip(`changes of ${resource}`, 'it takes none')
      continue
    }
    await report.rule(`${resource} are changed under their revision alone, by the fields that are given`, async () => {
      const [first] = (await client.all(resource)).filter((i) => !i.removed)
      must(first, `there is no ${resource} to change`)
      const path = `/${resource}/${encodeURIComponent(first.id)}`
      const { name } = first.value as { name: string }
      mustRefuse(await client.ask('PATCH', path, { body: { name } }), 428, 'a change without If-Match')
      mustRefuse(await client.ask('PATCH', path, { body: { name }, headers: { 'if-match': `"${first.revision}0"` } }), 412, 'a change under another revision')
      const answer = await client.ask('PATCH', path, { body: { name }, headers: { 'if-match': `"${first.revision}"` } })
      must(answer.status === 200 && JSON.stringify((answer.body as { value: unknown }).value) === JSON.stringify(first.value), 'a change to what it was changes something')
      const now = (await client.all(resource)).find((i) => i.id === first.id)
      // A change to what it was may be none; where it is one, it moves as any other.
      must(now && now.revision === (answer.body as { revision: unknown }).revision, 'the answer names another revision than the one it is at')
      must(now.revision === first.revision || BigInt(now.sequence) > BigInt(first.sequence), 'its revision moved, and its sequence did not')
    })
  }
}
