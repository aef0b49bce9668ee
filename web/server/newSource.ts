import type { Db } from '#db/connect'
import { newToken, type SecretKey } from '#db/secrets'
import { insertCredential, insertSource } from '#db/sources'
import type { NewSourceForm } from './forms.ts'

/**
 * Keeps a new source, with a credential of its own name or one that is kept already.
 * @returns the token of a pushing sender, shown this once and kept only as a hash
 * @throws RangeError with a sentence when a field of the credential is missing
 */
export async function addSource(
  db: Db,
  key: SecretKey,
  form: NewSourceForm,
): Promise<{ token: string | null }> {
  return db.transaction().execute(async (trx) => {
    const { name, intervalSeconds, protocol } = form
    if (protocol === 'otlp') {
      const token = newToken()
      await insertSource(trx, {
        name,
        protocol,
        address: 'pushes to us',
        settings: {},
        intervalSeconds,
        credentialId: null,
        token,
      })
      return { token }
    }
    const kept = form.credential === '' ? null : Number(form.credential)
    const credentialId =
      kept ?? (await insertCredential(trx, key, { name: `${name} credential`, ...credentialOf(form) }))
    const settings =
      protocol === 'redfish'
        ? { authorityPem: form.authorityPem === '' ? null : form.authorityPem }
        : { version: form.version, authentication: 'sha256', privacy: 'aes' }
    await insertSource(trx, {
      name,
      protocol,
      address: form.address,
      settings,
      intervalSeconds,
      credentialId,
      token: null,
    })
    return { token: null }
  })
}

type Polled = Exclude<NewSourceForm, { protocol: 'otlp' }>
type Credential = Omit<Parameters<typeof insertCredential>[2], 'name'>

function credentialOf(form: Polled): Credential {
  if (form.protocol === 'redfish') {
    if (form.username === '' || form.password === '')
      throw new RangeError('Enter the user and the password of the controller.')
    return { kind: 'basic', secret: { username: form.username, password: form.password } }
  }
  if (form.version === 'v2c') {
    if (form.community === '') throw new RangeError('Enter the community.')
    return { kind: 'snmp-v2c', secret: { community: form.community } }
  }
  const { username, authPassword, privPassword } = form
  if (username === '' || authPassword.length < 8 || privPassword.length < 8) {
    throw new RangeError('Enter the user and both passwords of SNMP v3, of at least 8 characters each.')
  }
  return { kind: 'snmp-v3', secret: { username, authPassword, privPassword } }
}
