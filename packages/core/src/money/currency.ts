import { fault } from '../faults.ts'

/** An amount in the currency's ISO 4217 minor unit, never a fraction of one. */
export type MinorUnits = bigint

// ISO 4217:2015 list one, circulating currencies; those not named below have two digits.
const CODES =
  'AED AFN ALL AMD AOA ARS AUD AWG AZN BAM BBD BDT BHD BIF BMD BND BOB BRL BSD BTN BWP BYN BZD CAD CDF CHF CLP CNY COP CRC CUP CVE CZK DJF DKK DOP DZD EGP ERN ETB EUR FJD FKP GBP GEL GHS GIP GMD GNF GTQ GYD HKD HNL HTG HUF IDR ILS INR IQD IRR ISK JMD JOD JPY KES KGS KHR KMF KPW KRW KWD KYD KZT LAK LBP LKR LRD LSL LYD MAD MDL MGA MKD MMK MNT MOP MRU MUR MVR MWK MXN MYR MZN NAD NGN NIO NOK NPR NZD OMR PAB PEN PGK PHP PKR PLN PYG QAR RON RSD RUB RWF SAR SBD SCR SDG SEK SGD SHP SLE SOS SRD SSP STN SVC SYP SZL THB TJS TMT TND TOP TRY TTD TWD TZS UAH UGX USD UYU UZS VED VES VND VUV WST XAF XCD XOF XPF YER ZAR ZMW ZWG'
const WITHOUT_DIGITS = 'BIF CLP DJF GNF ISK JPY KMF KRW PYG RWF UGX VND VUV XAF XOF XPF'
const WITH_THREE = 'BHD IQD JOD KWD LYD OMR TND'

const DIGITS = new Map<string, number>(CODES.split(' ').map((code) => [code, 2]))
for (const code of WITHOUT_DIGITS.split(' ')) DIGITS.set(code, 0)
for (const code of WITH_THREE.split(' ')) DIGITS.set(code, 3)

/**
 * Digits of the minor unit: USD 2, JPY 0, KWD 3.
 * @throws AXION_UNKNOWN_CURRENCY
 */
export function currencyDigits(code: string): number {
  const digits = DIGITS.get(code)
  if (digits === undefined) throw fault('AXION_UNKNOWN_CURRENCY', { currency: code })
  return digits
}

export function isCurrency(code: string): boolean {
  return DIGITS.has(code)
}

/**
 * Reads a wire amount ("1284.16") exactly.
 * @throws AXION_UNKNOWN_CURRENCY, or AXION_NOT_AN_AMOUNT for another shape or more digits than the currency has
 */
export function parseAmount(text: string, currency: string): MinorUnits {
  const digits = currencyDigits(currency)
  const match = /^(-?)(\d{1,18})(?:\.(\d+))?$/.exec(text)
  const fraction = match?.[3] ?? ''
  if (!match || fraction.length > digits) throw fault('AXION_NOT_AN_AMOUNT', { text, currency })
  const units = BigInt((match[2] ?? '') + fraction.padEnd(digits, '0'))
  return match[1] ? -units : units
}

/** Writes the wire form with all of the currency's digits: "1284.16". */
export function formatAmount(amount: MinorUnits, currency: string): string {
  const digits = currencyDigits(currency)
  const size = (amount < 0n ? -amount : amount).toString().padStart(digits + 1, '0')
  const whole = digits === 0 ? size : `${size.slice(0, -digits)}.${size.slice(-digits)}`
  return amount < 0n ? `-${whole}` : whole
}

export function absolute(amount: MinorUnits): MinorUnits {
  return amount < 0n ? -amount : amount
}

export function sum(amounts: Iterable<MinorUnits>): MinorUnits {
  let total = 0n
  for (const amount of amounts) total += amount
  return total
}
