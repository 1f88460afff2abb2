import { json } from './json.ts'

/** Values as COPY's text form has them, between tabs. What is nothing is `\N`. */

export const NO_VALUE = '\\N'

const ESCAPES: Readonly<Record<string, string>> = { '\\': '\\\\', '\t': '\\t', '\n': '\\n', '\r': '\\r' }
const MEANT: Readonly<Record<string, string>> = { '\\': '\\', t: '\t', n: '\n', r: '\r' }

export function asText(value: string | null | undefined): string {
  if (value == null) return NO_VALUE
  return /[\\\t\n\r]/.test(value)
    ? value.replaceAll(/[\\\t\n\r]/g, (letter) => ESCAPES[letter] ?? letter)
    : value
}

export function asJson(value: unknown): string {
  return value == null ? NO_VALUE : asText(json(value))
}

/** Of a column that is an array. */
export function asList(values: readonly unknown[]): string {
  return values.length === 0 ? '{}' : asText(`{${values.map((one) => quoted(one)).join(',')}}`)
}

function quoted(value: unknown): string {
  return value === null ? 'null' : `"${plain(value).replaceAll(/["\\]/g, '\\$&')}"`
}

/** A value as PostgreSQL reads it by the type of its column. */
export function plain(value: unknown): string {
  return typeof value === 'string' ? value : value instanceof Date ? value.toISOString() : String(value)
}

/** The values of a line, as text each. */
export function valuesOf(line: string): (string | null)[] {
  return line
    .split('\t')
    .map((value) =>
      value === NO_VALUE
        ? null
        : value.includes('\\')
          ? value.replaceAll(/\\([\\tnr])/g, (_, letter: string) => MEANT[letter] ?? letter)
          : value,
    )
}
