import { isCurrency, isDate, parsePercent } from '@axion/core'
import { z } from 'zod'

/** What a database holds as text: no NUL, and no half of a surrogate pair. */
export const boundedText = (most: number, least = 0) =>
  z.string().min(least).max(most).refine(isText, { error: 'holds a NUL or half of a character' })
export const id = boundedText(200, 1).meta({ description: "The system's own id, opaque to readers" })
export const name = boundedText(400)
/** Where people open something: never anything but a page. */
export const address = z
  .url({ protocol: /^https?$/, error: 'is no http or https address' })
  .max(2000)
  .refine(isText, { error: 'holds a NUL or half of a character' })
/** From 1900 to 2199: what is outside is a slip of somebody's, and no database's year nought. */
export const date = z
  .string()
  .refine((of) => isDate(of) && isInRange(of), {
    error: 'is no calendar date from 1900 to 2199 (ISO 8601, 2026-09-17)',
  })
  .meta({ format: 'date' })
/** The last day of a span, of which many systems write that it never comes: up to the year 9999. */
export const lastDate = z
  .string()
  .refine((of) => isDate(of) && of >= '1900', { error: 'is no calendar date from 1900 on (ISO 8601)' })
  .meta({ format: 'date' })
export const instant = z.iso
  .datetime({ offset: true })
  .refine(isInRange, { error: 'is no time from 1900 to 2199' })
export const currency = z
  .string()
  .refine(isCurrency, { error: 'is no ISO 4217 currency' })
  .meta({ pattern: '^[A-Z]{3}$' })
export const amount = z
  .string()
  .regex(/^-?\d{1,15}(\.\d{1,4})?$/, 'is no decimal amount of at most 15 digits before the point')
  .meta({ description: 'Decimal in the currency beside it' })
export const decimal = z
  .string()
  .regex(/^-?\d{1,9}(\.\d{1,12})?$/, 'is no plain decimal of at most 9 digits before the point')
/** Of one article, in the currency of its document. */
export const price = z
  .string()
  .regex(/^-?\d{1,15}(\.\d{1,12})?$/, 'is no plain decimal of at most 15 digits before the point')
/** A rate of exchange is more than nil: nothing comes to nothing, or to less, in another currency. */
export const exchangeRate = decimal.refine((text) => /[1-9]/.test(text) && !text.startsWith('-'), {
  error: 'is no rate of exchange above nil',
})
export const percent = z
  .string()
  .refine(isPercent, { error: 'is no percent from 0 to 100 with at most six places' })
  .meta({ pattern: '^\\d{1,3}(\\.\\d{1,6})?$' })
/** An IANA time zone, and a wall-clock time of day. */
export const timeZone = z.string().max(60).refine(isTimeZone, { error: 'is no IANA time zone' })
/** A BCP 47 tag that numbers and dates can be written by. */
export const locale = z.string().max(35).refine(isLocale, { error: 'is no BCP 47 locale' })
export const timeOfDay = z.string().regex(/^([01]\d|2[0-3]):[0-5]\d$/, 'is no time of day')
/** At most what eight bytes hold. A check goes on where another has failed: each stands by itself. */
export const sequence = z
  .string()
  .regex(/^\d{1,19}$/, 'is no sequence number')
  .refine((of) => !/^\d+$/.test(of) || BigInt(of) <= 2n ** 63n - 1n, { error: 'is past what 64 bits hold' })

const SURELY = ['1900', '2199'] as const
function isInRange(of: string): boolean {
  return of.slice(0, 4) >= SURELY[0] && of.slice(0, 4) <= SURELY[1]
}

function isText(of: string): boolean {
  return !of.includes('\u0000') && of.isWellFormed()
}

function isPercent(text: string): boolean {
  try {
    parsePercent(text)
    return true
  } catch {
    return false
  }
}

function isTimeZone(text: string): boolean {
  try {
    return new Intl.DateTimeFormat('en', { timeZone: text }).resolvedOptions().timeZone !== ''
  } catch {
    return false
  }
}

function isLocale(text: string): boolean {
  try {
    return (
      Intl.getCanonicalLocales(text).length === 1 && Intl.NumberFormat.supportedLocalesOf(text).length === 1
    )
  } catch {
    return false
  }
}
