import { createHash, randomBytes } from 'node:crypto'
import { hash, verify } from '@node-rs/argon2'
import { dictionary } from '@zxcvbn-ts/language-common'
import { z } from 'zod'

const COMMONEST = new Set<string>(dictionary['passwords-common'])
/** A password that somebody chooses: ten characters at least, and none of the fifty thousand commonest. */
export const newPassword = z
  .string()
  .min(10, 'needs ten characters at least')
  .max(200)
  .refine((text) => !COMMONEST.has(text.toLowerCase()), { error: 'is among the commonest passwords' })

/** Argon2id with the library's parameters (OWASP's first choice). */
export function hashPassword(password: string): Promise<string> {
  return hash(password)
}

/** Takes as long for somebody who does not exist, so that addresses cannot be tried out. */
export async function passwordHolds(stored: string | undefined, password: string): Promise<boolean> {
  const holds = await verify(stored ?? (await nobody()), password)
  return stored !== undefined && holds
}

let placeholder: Promise<string> | undefined
function nobody(): Promise<string> {
  return (placeholder ??= hash(randomBytes(16).toString('hex')))
}

export function newToken(): string {
  return randomBytes(32).toString('base64url')
}

/** Sessions are kept by the token's hash: who reads the table cannot use it. */
export function tokenHash(token: string): string {
  return createHash('sha256').update(token).digest('hex')
}
