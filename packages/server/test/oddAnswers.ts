import { randomBytes } from 'node:crypto'
import type { ServerResponse } from 'node:http'
import { gzipSync } from 'node:zlib'
import { at, body, change, ITEM, page } from './hostileBridge.ts'
import type { Instead } from './second/source.ts'

const JSON_TYPE = { 'content-type': 'application/json' }
const items = (does: (response: ServerResponse) => unknown): Instead =>
  at('items', (response) => {
    does(response)
    return true
  })
const about = (text: string): Instead => at('about', (response) => body(response, text))
const settings = (text: string): Instead => at('settings', (response) => body(response, text))
/** Bytes past HTTP's own rules. */
const raw = (text: string): Instead => items((response) => response.socket?.end(text))
const packed = (bytes: Buffer, kind = 'gzip'): Instead =>
  items((response) => response.writeHead(200, { ...JSON_TYPE, 'content-encoding': kind }).end(bytes))
const status = (code: number, headers: Record<string, string> = {}, text = '{}'): Instead =>
  items((response) => response.writeHead(code, headers).end(text))
const EMPTY = page([], '0')

/** Answers that are none, each with what is said of it; a third of them where not all are asked for. */
const ALL: [name: string, instead: Instead, says: RegExp][] = [
  ['a connection closed at once', items((response) => response.destroy()), /^Hostile/],
  ['no HTTP at all', raw('how do you do\r\n\r\n'), /^Hostile/],
  ['a status that is none', raw('HTTP/1.1 9999 Yes\r\n\r\n'), /^Hostile/],
  [
    'heads without an end',
    items((response) => {
      response.socket?.write('HTTP/1.1 200 OK\r\n')
      const more = (): void => {
        while (
          response.socket?.writable &&
          response.socket.write(`x-${randomBytes(4).toString('hex')}: ${'y'.repeat(8000)}\r\n`)
        );
      }
      response.socket?.on('drain', more)
      more()
    }),
    /^Hostile/,
  ],
  ['two lengths', raw(`HTTP/1.1 200 OK\r\ncontent-length: 5\r\ncontent-length: 7\r\n\r\n{}`), /^Hostile/],
  [
    'a length that is too short',
    raw(`HTTP/1.1 200 OK\r\ncontent-type: application/json\r\ncontent-length: 9\r\n\r\n${EMPTY}`),
    /^Hostile/,
  ],
  [
    'pieces of no length',
    raw('HTTP/1.1 200 OK\r\ntransfer-encoding: chunked\r\n\r\nzz\r\n{}\r\n'),
    /^Hostile/,
  ],
  ['a way elsewhere', status(302, { location: 'http://169.254.0.1/items' }), /^Hostile/],
  ['a way in a circle', status(307, { location: '/items' }), /^Hostile/],
  ['nothing, well', status(204, {}, ''), /^Hostile/],
  ['a part', status(206, JSON_TYPE, EMPTY), /^Hostile/],
  ['an empty body', status(200, JSON_TYPE, ''), /^Hostile/],
  ['no such resource, of one it offers', status(404), /^Hostile/],
  ['a token that is refused of a sudden', status(401), /^Hostile/],
  ['a failure without a word', status(500, {}, ''), /^Hostile/],
  [
    'a failure of a million words',
    status(
      500,
      { 'content-type': 'application/problem+json' },
      JSON.stringify({ type: 'about:blank', title: 'x'.repeat(1_000_000), status: 500 }),
    ),
    /^Hostile/,
  ],
  ['later, at no time', status(429, { 'retry-after': 'soon' }), /^Hostile/],
  ['later, before now', status(503, { 'retry-after': '-5' }), /^Hostile/],
  ['later, in a thousand years', status(503, { 'retry-after': '31536000000' }), /^Hostile/],
  ['bytes that are not packed as they say', packed(Buffer.from(EMPTY)), /^Hostile/],
  ['a packing that nobody knows', packed(randomBytes(200), 'wrapped'), /^Hostile/],
  ['little that unpacks to very much', packed(gzipSync(Buffer.alloc(40 * 1024 * 1024, 0x20))), /^Hostile/],
  ['a packing cut off', packed(gzipSync(Buffer.from(page([change('7')], '7'))).subarray(0, 30)), /^Hostile/],
  ['more after its end', status(200, JSON_TYPE, `${EMPTY}{}`), /^Hostile/],
  ['a list where a page should be', status(200, JSON_TYPE, '[]'), /^Hostile/],
  ['nothing where a page should be', status(200, JSON_TYPE, 'null'), /^Hostile/],
  ['no word of whether there is more', status(200, JSON_TYPE, '{"items":[],"next":"0"}'), /^Hostile/],
  ['things that are none', status(200, JSON_TYPE, '{"items":[null,7],"next":"0","more":false}'), /^Hostile/],
  ['a thing without a name', status(200, JSON_TYPE, page([change('7', '')], '7')), /^Hostile/],
  [
    'a name as long as a book',
    status(200, JSON_TYPE, page([change('7', 'x'.repeat(100_000))], '7')),
    /^Hostile/,
  ],
  [
    'half of a character in a name',
    status(200, JSON_TYPE, page([change('7', '\\ud800')], '7').replace('\\\\', '\\')),
    /^Hostile/,
  ],
  ['a sequence below nought', status(200, JSON_TYPE, page([change('-7', 'x', ITEM)], '7')), /^Hostile/],
  ['another contract', about('{"contract":"2"}'), /^Hostile/],
  ['no word of itself', about('null'), /^Hostile/],
  ['settings of another shape', settings('{"taxEnabled":"yes"}'), /^Hostile/],
]

export const ODD = process.env['AXION_HOSTILE'] === 'all' ? ALL : ALL.filter((_, at) => at % 3 === 0)
