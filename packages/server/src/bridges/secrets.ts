import { createCipheriv, createDecipheriv, randomBytes } from 'node:crypto'

const NONCE_BYTES = 12
const TAG_BYTES = 16

/** Seals a bridge token for rest: AES-256-GCM, nonce and tag before the text. */
export function seal(text: string, keyHex: string): Buffer {
  const nonce = randomBytes(NONCE_BYTES)
  const cipher = createCipheriv('aes-256-gcm', Buffer.from(keyHex, 'hex'), nonce)
  const sealed = Buffer.concat([cipher.update(text, 'utf8'), cipher.final()])
  return Buffer.concat([nonce, cipher.getAuthTag(), sealed])
}

/** @throws where the key is another one, or the bytes were tampered with */
export function unseal(sealed: Buffer, keyHex: string): string {
  const decipher = createDecipheriv(
    'aes-256-gcm',
    Buffer.from(keyHex, 'hex'),
    sealed.subarray(0, NONCE_BYTES),
  )
  decipher.setAuthTag(sealed.subarray(NONCE_BYTES, NONCE_BYTES + TAG_BYTES))
  return Buffer.concat([
    decipher.update(sealed.subarray(NONCE_BYTES + TAG_BYTES)),
    decipher.final(),
  ]).toString('utf8')
}
