import type { Db } from '#db/platform'
import { newToken, insertSource } from '#db/sources'
import type { NewSenderForm } from './forms.ts'

/**
 * Keeps a source that will push.
 * @returns its token, shown this once and kept only as a hash
 */
export async function addSender(db: Db, { name, intervalSeconds }: NewSenderForm): Promise<string> {
  const token = newToken()
  await insertSource(db, {
    name,
    protocol: 'otlp',
    address: 'pushes to us',
    settings: {},
    intervalSeconds,
    newItems: 'take',
    credentialId: null,
    token,
  })
  return token
}
