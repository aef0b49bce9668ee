import type { CredentialKind } from '#db/sources'
import { Refused } from '../platform/refused.ts'

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
      if (secret.username === '' || secret.authPassword.length < 8 || secret.privPassword.length < 8)
        throw new Refused(
          'Enter the user and both passwords, of at least 8 characters each (RFC 3414 §11.2), or choose a credential that is kept.',
        )
      return secret
    }
    default:
      return kind satisfies never
  }
}
