import 'reflect-metadata'
import { webcrypto } from 'node:crypto'
import * as x509 from '@peculiar/x509'

const ALGORITHM = { name: 'ECDSA', namedCurve: 'P-256', hash: 'SHA-256' } as const
const YEAR_MS = 365 * 86_400_000

const LOOPBACK = [
  { type: 'ip', value: '127.0.0.1' },
  { type: 'dns', value: 'localhost' },
] as const

export interface Pair {
  readonly certificatePem: string
  readonly keyPem: string
}

/** A certificate authority of the stand-ins' own (X.509, RFC 5280). */
export async function newAuthority(name: string, nowMs: number): Promise<Pair> {
  const keys = await webcrypto.subtle.generateKey(ALGORITHM, true, ['sign', 'verify'])
  const certificate = await x509.X509CertificateGenerator.createSelfSigned({
    name: `CN=${name}`,
    notBefore: new Date(nowMs - 86_400_000),
    notAfter: new Date(nowMs + 10 * YEAR_MS),
    keys: keys as unknown as CryptoKeyPair,
    signingAlgorithm: ALGORITHM,
    extensions: [
      new x509.BasicConstraintsExtension(true, 1, true),
      new x509.KeyUsagesExtension(x509.KeyUsageFlags.keyCertSign | x509.KeyUsageFlags.cRLSign, true),
    ],
  })
  return { certificatePem: certificate.toString('pem'), keyPem: await privatePem(keys.privateKey) }
}

/**
 * A server's certificate, signed by the authority, whose own follows it: a server sends both.
 * @param names what it is made out to; loopback when nothing is given
 */
export async function newServerCertificate(
  authority: Pair,
  name: string,
  nowMs: number,
  names: readonly { type: 'ip' | 'dns'; value: string }[] = LOOPBACK,
): Promise<Pair> {
  const keys = await webcrypto.subtle.generateKey(ALGORITHM, true, ['sign', 'verify'])
  const issuer = new x509.X509Certificate(authority.certificatePem)
  const der = x509.PemConverter.decodeFirst(authority.keyPem)
  const issuerKey = await webcrypto.subtle.importKey('pkcs8', der, ALGORITHM, false, ['sign'])
  const certificate = await x509.X509CertificateGenerator.create({
    subject: `CN=${name}`,
    issuer: issuer.subject,
    notBefore: new Date(nowMs - 86_400_000),
    notAfter: new Date(nowMs + 2 * YEAR_MS),
    signingAlgorithm: ALGORITHM,
    publicKey: keys.publicKey as unknown as CryptoKey,
    signingKey: issuerKey as unknown as CryptoKey,
    extensions: [
      new x509.BasicConstraintsExtension(false),
      new x509.SubjectAlternativeNameExtension([...names]),
    ],
  })
  return {
    certificatePem: `${certificate.toString('pem')}\n${authority.certificatePem}`,
    keyPem: await privatePem(keys.privateKey),
  }
}

async function privatePem(key: webcrypto.CryptoKey): Promise<string> {
  return x509.PemConverter.encode(await webcrypto.subtle.exportKey('pkcs8', key), 'PRIVATE KEY')
}
