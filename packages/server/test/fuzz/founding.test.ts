import fc from 'fast-check'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { makeWorld, type World } from '../world.ts'
import { Requests, routesOf } from './requests.ts'

/** No entity that can be founded locks anybody out: every page of it is read, whatever it is called and wherever it is. */
let world: World
beforeAll(async () => void (world = await makeWorld()))
afterAll(() => world.close())

const ZONES = [
  'UTC',
  'Etc/GMT+12',
  'GMT0',
  'EST5EDT',
  '+05:30',
  'localtime',
  'posixrules',
  'us/pacific',
  'Factory',
]
const LOCALES = [
  'en-US',
  'de-CH',
  'ar-EG-u-nu-arab',
  'th-TH-u-ca-buddhist',
  'fa-IR',
  'zh-Hant-TW',
  'sr-Latn',
  'en-u-hc-h24',
  'x-private',
  'root',
  'i-klingon',
  '',
  'de_DE',
  'en-US-u-co-',
  'und',
]
/** Mostly of the first, seldom of what may be refused. */
const mostly = (right: fc.Arbitrary<string>, odd: fc.Arbitrary<string>): fc.Arbitrary<string> =>
  fc.oneof({ weight: 8, arbitrary: right }, { weight: 1, arbitrary: odd })
const founding = fc.record({
  name: mostly(
    fc.string({ unit: 'grapheme', minLength: 1, maxLength: 40 }),
    fc.string({ unit: 'binary', minLength: 1, maxLength: 200 }),
  ),
  country: fc.stringMatching(/^[A-Z]{2}$/),
  currency: mostly(
    fc.constantFrom('USD', 'JPY', 'KWD', 'CLF', 'EUR', 'UYW', 'XAF'),
    fc.stringMatching(/^[A-Z]{3}$/),
  ),
  timeZone: mostly(fc.constantFrom(...Intl.supportedValuesOf('timeZone')), fc.constantFrom(...ZONES)),
  locale: mostly(fc.constantFrom(...LOCALES), fc.string({ maxLength: 12 })),
})

it('every page of every entity that can be founded is read', { timeout: 900_000 }, async () => {
  const routes = routesOf((await world.app.inject('/api/docs/json')).json()).filter(
    ({ method, path }) => method === 'GET' && path.includes('{entity}'),
  )
  expect(routes.length).toBeGreaterThan(20)
  const requests = new Requests(7, ['administrator'])
  let [made, founded] = [0, 0]
  await fc.assert(
    fc.asyncProperty(founding, async (entity) => {
      const id = `made-${++made}`
      const answer = await world.as('administrator', 'POST', '/api/entities', { id, ...entity })
      expect([200, 400]).toContain(answer.statusCode)
      if (answer.statusCode !== 200) return
      founded++
      for (const url of ['/api/session', '/api/practice'])
        expect(
          (await world.as('administrator', 'GET', url)).statusCode,
          `${url}: ${JSON.stringify(entity)}`,
        ).toBe(200)
      for (const route of routes) {
        const { url } = requests.draw(route, 'right')
        const read = await world.as(
          'administrator',
          'GET',
          url.replace('/larkspur/', `/${id}/`).replace('/larkspur', `/${id}`),
        )
        expect(read.statusCode, `${url}: ${JSON.stringify(entity)} ${read.body.slice(0, 300)}`).toBeLessThan(
          500,
        )
      }
      // The pages of a browser write dates and amounts by it.
      new Intl.DateTimeFormat(entity.locale, { timeZone: entity.timeZone, month: 'long' }).format(0)
      new Intl.NumberFormat(entity.locale).format(0)
    }),
    { numRuns: Number(process.env['AXION_FUZZ_ENTITIES'] ?? 40), seed: 20_261_127 },
  )
  expect(founded).toBeGreaterThan(5)
})
