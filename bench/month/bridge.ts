import { createServer } from 'node:http'
import { existsSync, readFileSync } from 'node:fs'
import { join } from 'node:path'

/** Sends the pages of a folder, as a bridge does: `node bridge.ts FOLDER PORT`. */
const [folder = '', port = '0'] = process.argv.slice(2)
createServer((request, answer) => {
  const url = new URL(request.url ?? '/', 'http://bridge')
  const [, system = '', resource = ''] = url.pathname.split('/')
  const after = url.searchParams.get('after')
  const file = join(folder, system, after === null ? `${resource}.json` : `${resource}.${after}.json`)
  answer.setHeader('content-type', 'application/json')
  if (resource === 'balances') return void answer.end(JSON.stringify({ sequence: '0', items: [] }))
  // Past the end of a feed stands nothing.
  answer.end(
    existsSync(file) ? readFileSync(file) : JSON.stringify({ items: [], next: after ?? '0', more: false }),
  )
}).listen(Number(port), '127.0.0.1', () => process.send?.('ready'))
