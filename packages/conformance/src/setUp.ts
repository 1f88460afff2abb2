import { SET_UP_TAKEN, type About } from '@axion/contract'
import { must, mustRefuse, type Report } from './report.ts'
import type { Answer, Client } from './client.ts'

/** Set-up that may be changed: under its revision alone, and by nothing but the fields that are given. */
export async function setUpChecks(
  report: Report,
  client: Client,
  { resources, takes, creates }: About,
): Promise<void> {
  for (const resource of creates.filter((one) => one !== 'committed'))
    await report.rule(`${resource} are made under a key, once`, () => creationCheck(client, resource))
  for (const resource of SET_UP_TAKEN.filter((one) => resources.includes(one))) {
    if (!takes.includes(resource)) {
      report.skip(`changes of ${resource}`, 'it takes none')
      continue
    }
    await report.rule(
      `${resource} are changed under their revision alone, by the fields that are given`,
      async () => {
        const [first] = (await client.all(resource)).filter((i) => !i.removed)
        must(first, `there is no ${resource} to change`)
        const path = `/${resource}/${encodeURIComponent(first.id)}`
        const { name } = first.value as { name: string }
        mustRefuse(await client.ask('PATCH', path, { body: { name } }), 428, 'a change without If-Match')
        mustRefuse(
          await client.ask('PATCH', path, {
            body: { name },
            headers: { 'if-match': `"${first.revision}0"` },
          }),
          412,
          'a change under another revision',
        )
        const answer = await client.ask('PATCH', path, {
          body: { name },
          headers: { 'if-match': `"${first.revision}"` },
        })
        must(
          answer.status === 200 &&
            JSON.stringify((answer.body as { value: unknown }).value) === JSON.stringify(first.value),
          'a change to what it was changes something',
        )
        const now = (await client.all(resource)).find((i) => i.id === first.id)
        // A change to what it was may be none; where it is one, it moves as any other.
        must(
          now && now.revision === (answer.body as { revision: unknown }).revision,
          'the answer names another revision than the one it is at',
        )
        must(
          now.revision === first.revision || BigInt(now.sequence) > BigInt(first.sequence),
          'its revision moved, and its sequence did not',
        )
      },
    )
  }
}

/** A new object like one that is there, under a name and a code of its own. */
async function creationCheck(client: Client, resource: string): Promise<void> {
  const [first] = (await client.all(resource)).filter((i) => !i.removed)
  must(first, `there is no ${resource} to make another like`)
  const mark = `TEST-${Date.now().toString(36)}`
  const like = first.value as Readonly<Record<string, unknown>>
  const value = {
    ...like,
    name: mark,
    ...('number' in like ? { number: mark } : {}),
    ...('code' in like ? { code: mark } : {}),
  }
  const make = (body: object, key: string | null): Promise<Answer> =>
    client.ask('POST', `/${resource}`, {
      body,
      ...(key === null ? {} : { headers: { 'idempotency-key': key } }),
    })
  mustRefuse(await make(value, null), 400, 'a new object without a key')
  const made = await make(value, mark)
  must(made.status === 201, `a new object answers ${made.status}, not 201`)
  const { id, revision } = made.body as { id: string; revision: string }
  const again = await make(value, mark)
  must((again.body as { id: string }).id === id, 'the same key makes a second one')
  mustRefuse(await make({ ...value, name: `${mark} other` }, mark), 422, 'the same key with another value')
  mustRefuse(await make(value, `${mark}-2`), 409, 'what is there already')
  const found = (await client.all(resource)).filter(
    (i) => !i.removed && (i.value as { name?: string }).name === mark,
  )
  must(
    found.length === 1 && found[0]?.id === id && found[0].revision === revision,
    'what was made does not show, or not at the revision that was answered',
  )
}
