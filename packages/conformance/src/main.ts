import { parseArgs } from 'node:util'
import { checkBridge } from './check.ts'

/** npm run bridge:check -- --url http://… --token … [--write] */
const { values } = parseArgs({
  options: { url: { type: 'string' }, token: { type: 'string' }, write: { type: 'boolean', default: false } },
})
if (!values.url || !values.token || !URL.canParse(values.url)) {
  process.stderr.write(
    'usage: npm run bridge:check -- --url <address of the bridge> --token <its token> [--write]\n--write: a ledger is written to; test bookings are voided again\n',
  )
  process.exit(2)
}
const results = await checkBridge(values.url, values.token, { write: values.write }).catch(
  (error: unknown) => {
    process.stderr.write(`bridge:check: ${values.url} cannot be tested: ${(error as Error).message}\n`)
    process.exit(2)
  },
)
const WORD = { holds: 'holds', fails: 'FAILS', 'not-checked': '  –  ' } as const
for (const { rule, state, why } of results)
  process.stdout.write(`${WORD[state]}  ${rule}${why ? `: ${why}` : ''}\n`)
const failed = results.filter((r) => r.state === 'fails').length
process.stdout.write(
  `${results.filter((r) => r.state === 'holds').length} rules hold, ${failed} fail, ${results.filter((r) => r.state === 'not-checked').length} not checked\n`,
)
process.exit(failed === 0 ? 0 : 1)
