import { createCipheriv, createDecipheriv, createHash, randomBytes } from 'node:crypto'
import { existsSync, readFileSync, writeFileSync } from 'node:fs'

/** The key that seals credentials. It lives in a file outside the database, readable by the product's user only. */
export type SecretKey = Buffer

/** Reads the key file, or makes it on first use. @throws when the file is there and is not a key. */
export function openKeyFile(path: string): SecretKey {
  if (!existsSync(path)) {
    try {
      writeFileSync(path, randomBytes(32).toString('hex') + '\n', { mode: 0o600, flag: 'wx' })
    } catch (error) {
      // Another process may have made it between the two calls; its key is the one.
      if (!(error instanceof Error && 'code' in error && error.code === 'EEXIST')) throw error
    }
  }
  const hex = readFileSync(path, 'utf8').trim()
  if (!/^[0-9a-f]{64}$/.test(hex))
    throw new Error(`${path} should hold a key of 64 hexadecimal digits, and does not`)
  return Buffer.from(hex, 'hex')
}

/** AES-256-GCM (NIST SP 800-38D): 12 bytes of nonce, 16 of tag, then the text. */
export function seal(key: SecretKey, secret: Readonly<Record<string, string>>): Buffer {
  const nonce = randomBytes(12)
  const cipher = createCipheriv('aes-256-gcm', key, nonce)
  const text = Buffer.concat([cipher.update(JSON.stringify(secret), 'utf8'), cipher.final()])
  return Buffer.concat([nonce, cipher.getAuthTag(), text])
}

/** What is sealed cannot be opened: the key is another one, or the bytes were altered. */
export class SealError extends Error {
  constructor(options: ErrorOptions) {
    super('what is sealed cannot be opened: another key sealed it, or it was altered', options)
  }
}

/** @throws SealError when the key is another one, or the bytes were altered. */
export function unseal(key: SecretKey, sealed: Buffer): Record<string, string> {
  try {
    return opened(key, sealed)
  } catch (error) {
    throw new SealError({ cause: error })
  }
}

function opened(key: SecretKey, sealed: Buffer): Record<string, string> {
  const decipher = createDecipheriv('aes-256-gcm', key, sealed.subarray(0, 12))
  decipher.setAuthTag(sealed.subarray(12, 28))
  const text = Buffer.concat([decipher.update(sealed.subarray(28)), decipher.final()])
  return JSON.parse(text.toString('utf8')) as Record<string, string>
}

/** Tokens are long and random, so a plain hash is enough to find and to check them. */
export const tokenHash = (token: string): Buffer => createHash('sha256').update(token).digest()

export const newToken = (): string => `rr_${randomBytes(24).toString('base64url')}`
