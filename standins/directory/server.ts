import type { Server } from 'node:http'
import { Provider } from 'oidc-provider'
import { DIRECTORY_CLIENT, DIRECTORY_PEOPLE, DIRECTORY_SECRET } from '../site/index.ts'

/** A directory of people as an issuer of OpenID Connect (Core 1.0; code with PKCE, RFC 7636), by a library of others. */
export interface Issuer {
  readonly server: Server
  close(): void
}

/**
 * Its pages ask for a name out of `DIRECTORY_PEOPLE`, and take any password.
 * @param back addresses to which it may send a browser back
 */
export async function startIssuer(port: number, back: readonly string[]): Promise<Issuer> {
  const provider = new Provider(`http://127.0.0.1:${port}`, {
    clients: [
      {
        client_id: DIRECTORY_CLIENT,
        client_secret: DIRECTORY_SECRET,
        redirect_uris: [...back],
        grant_types: ['authorization_code'],
        response_types: ['code'],
      },
    ],
    scopes: ['openid', 'profile', 'email', 'groups'],
    claims: { openid: ['sub'], profile: ['name'], email: ['email', 'email_verified'], groups: ['groups'] },
    // What is asked for stands in the token itself, as many directories have it.
    conformIdTokenClaims: false,
    pkce: { required: () => true },
    features: { devInteractions: { enabled: true } },
    cookies: { keys: [DIRECTORY_SECRET] },
    findAccount: (_context, sub) => {
      const person = DIRECTORY_PEOPLE.find(({ login }) => login === sub)
      if (person === undefined) return undefined
      const { name, email, groups } = person
      return {
        accountId: sub,
        claims: () => ({ sub, name, email, email_verified: true, groups: [...groups] }),
      }
    },
  })
  const server = await new Promise<Server>((resolve, reject) => {
    const listening = provider.listen(port, '127.0.0.1', () => resolve(listening))
    listening.once('error', reject)
  })
  return {
    server,
    close() {
      server.close()
      server.closeAllConnections()
    },
  }
}
