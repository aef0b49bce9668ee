import type { Db } from '#db/platform'
import { insertCredential, listCredentials, type SecretKey, updateCredential } from '#db/sources'
import type { CredentialForm } from './forms.ts'
import { Refused } from '../platform/refused.ts'
import { type CredentialKind } from '#core/sources'

/** The fields that a credential of any kind may have, as a form sends them. */
export interface SecretFields {
  readonly username: string
  readonly password: string
  readonly token: string
  readonly community: string
  readonly authPassword: string
  readonly privPassword: string
}

/**
 * The secret of a kind of credential; fields that are left empty are taken from the one before.
 * @throws Refused when one is missing
 */
export function secretOf(
  kind: CredentialKind,
  form: SecretFields,
  before: Readonly<Record<string, string>> | null,
): Record<string, string> {
  const given = (name: keyof SecretFields): string =>
    form[name] === '' ? (before?.[name] ?? '') : form[name]
  switch (kind) {
    case 'basic': {
      const secret = { username: given('username'), password: given('password') }
      if (secret.username === '' || secret.password === '')
        throw new Refused('Enter the user and the password, or choose a credential that is kept.')
      return secret
    }
    case 'bearer': {
      if (given('token') === '') throw new Refused('Enter the token, or choose a credential that is kept.')
      return { token: given('token') }
    }
    case 'snmp-v2c': {
      if (given('community') === '')
        throw new Refused('Enter the community, or choose a credential that is kept.')
      return { community: given('community') }
    }
    case 'snmp-v3': {
      const secret = {
        username: given('username'),
        authPassword: given('authPassword'),
        privPassword: given('privPassword'),
      }
      const isPrivate = secret.privPassword === '' || secret.privPassword.length >= 8
      if (secret.username === '' || secret.authPassword.length < 8 || !isPrivate)
        throw new Refused(
          'Enter the user and both passwords, of at least 8 characters each (RFC 3414 §11.2), or choose a credential that is kept. Leave the privacy password empty only where the agent encrypts nothing.',
        )
      return secret
    }
    default:
      return kind satisfies never
  }
}

/**
 * Keeps a credential: a new one, or another name or secret of one that is kept.
 * @returns what has become of it, in words that go on from its name
 * @throws Refused when its secret is not whole, or it has gone
 */
export async function keepCredential(
  trx: Db,
  key: SecretKey,
  { id, name, kind: asked, hosts, inClear, ...fields }: CredentialForm,
): Promise<{ readonly what: string; readonly isNew: boolean }> {
  // What a kept credential is cannot be changed: its sources speak one protocol.
  const kind = id === null ? asked : (await listCredentials(trx)).find((each) => each.id === id)?.kind
  if (kind === undefined) throw new Refused('This credential has gone; load the page again.')
  if (id === null) {
    await insertCredential(trx, key, { name, kind, secret: secretOf(kind, fields, null), hosts, inClear })
    return { what: 'is kept', isNew: true }
  }
  const isTouched = Object.values(fields).some((value) => value !== '')
  const secret = isTouched ? secretOf(kind, fields, null) : null
  await updateCredential(trx, key, { id, name, secret, hosts, inClear })
  return { what: 'is changed; its sources go by it from now on', isNew: false }
}
