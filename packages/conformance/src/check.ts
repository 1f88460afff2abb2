import { About, BRIDGE_CONTRACT, RESOURCES, RESOURCES_OF, Settings } from '@axion/contract'
import { bookingChecks } from './bookings/bookings.ts'
import { Client } from './client.ts'
import { tellingChecks } from './committed.ts'
import { contentChecks } from './content.ts'
import { setUpChecks } from './setUp.ts'
import { must, mustRefuse, Report, type Result } from './report.ts'

/**
 * Tests a bridge against docs/bridge.md.
 * @param write whether a ledger may be written to: the checks of bookings and set-up leave voided test bookings behind
 */
export async function checkBridge(
  url: string,
  token: string,
  { write }: { readonly write: boolean },
): Promise<Result[]> {
  const report = new Report()
  const client = new Client(url, token)
  let about: About | null = null
  let settings: Settings | null = null
  await report.rule('a request without a token, or with a wrong one, is refused with 401', async () => {
    mustRefuse(await client.ask('GET', '/about', { token: null }), 401, 'no token')
    mustRefuse(await client.ask('GET', '/about', { token: 'not the token' }), 401, 'a wrong token')
  })
  await report.rule('GET /about has the shape of the page, and speaks this version', async () => {
    about = About.parse((await client.ask('GET', '/about')).body)
    must(about.contract === BRIDGE_CONTRACT, `it speaks version ${about.contract}, not ${BRIDGE_CONTRACT}`)
    must(about.role !== 'ledger' || about.taxComputation !== null, 'a ledger says how it computes tax')
  })
  await report.rule('GET /settings has the shape of the page', async () => {
    settings = Settings.parse((await client.ask('GET', '/settings')).body)
    must(
      settings.currencies.includes(settings.baseCurrency),
      'the base currency is not among the currencies in use',
    )
  })
  if (about === null || settings === null) return report.results
  const { role, resources, takes } = about as About
  await report.rule('every resource of its role is offered', () => {
    const lacking = RESOURCES_OF[role].filter((resource) => !resources.includes(resource))
    must(lacking.length === 0, `it lacks ${lacking.join(', ')}`)
  })
  for (const resource of RESOURCES_OF[role]) await pagingChecks(report, client, resource)
  await report.rule(
    'a cursor that is no number is refused with 400, an unknown resource with 404',
    async () => {
      mustRefuse(await client.ask('GET', `/${RESOURCES_OF[role][0]}?after=yesterday`), 400, 'after=yesterday')
      mustRefuse(await client.ask('GET', '/no-such-resource'), 404, 'an unknown resource')
    },
  )
  await contentChecks(report, client, about, settings)
  if (takes.length === 0) return report.results
  if (!write) report.skip('bookings and set-up', 'nothing is written without --write')
  else {
    if (role === 'ledger' && takes.includes('bookings')) await bookingChecks(report, client, about, settings)
    await setUpChecks(report, client, about)
    if (role === 'tax-service') await tellingChecks(report, client, about)
  }
  return report.results
}

async function pagingChecks(report: Report, client: Client, resource: keyof typeof RESOURCES): Promise<void> {
  await report.rule(
    `${resource}: pages in the order of the sequence, each object once, the same however it is cut`,
    async () => {
      const whole = await client.all(resource, '0', 1000)
      const cut = await client.all(resource, '0', Math.max(2, Math.ceil(whole.length / 7)))
      const order = whole.map((item) => BigInt(item.sequence))
      must(
        order.every((sequence, at) => at === 0 || sequence > (order[at - 1] ?? 0n)),
        'the sequence does not rise',
      )
      must(new Set(whole.map((item) => item.id)).size === whole.length, 'an object has two places')
      must(
        JSON.stringify(cut.map((i) => i.id)) === JSON.stringify(whole.map((i) => i.id)),
        'small pages give other objects than a large one',
      )
      const last = whole.at(-1)
      if (last)
        must(
          (await client.all(resource, last.sequence)).length === 0,
          'something stands past the last sequence',
        )
      must(
        whole.every((item) => item.removed === (item.value === null)),
        'a tombstone has a value, or a value is missing',
      )
    },
  )
  await report.rule(`${resource}: every value has the shape of the page`, async () => {
    for (const item of await client.all(resource)) {
      if (item.removed) continue
      const read = RESOURCES[resource].safeParse(item.value)
      const [issue] = read.error?.issues ?? []
      must(read.success, `${item.id}: ${issue?.path.join('.')} ${issue?.message}`)
    }
  })
}
