import { dictionary } from '@zxcvbn-ts/language-common'
import { z } from 'zod'

let common: ReadonlySet<string> | null = null

/** Whether it is among the passwords that are tried first (a list of some fifty thousand that leaked, by frequency). */
export function isCommonPassword(password: string): boolean {
  common ??= new Set(dictionary['passwords-common'] as readonly string[])
  const plain = password.toLowerCase()
  return common.has(plain) || common.has(plain.replace(/[^a-z]+$/, '')) || /^(.)\1*$/.test(plain)
}

/** A password that is chosen now. Long counts, and that it is not one of those that everybody tries (NIST SP 800-63B §5.1.1.2). */
export const newPassword = z
  .string()
  .min(10, 'A password has at least 10 characters')
  .max(200, 'A password has at most 200 characters')
  .refine(
    (password) => !isCommonPassword(password),
    'This password, or the word that it is made of, is on the list of those that are tried first; choose another, of several words say',
  )
