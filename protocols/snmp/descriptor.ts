import { z } from 'zod'
import type { ProtocolDescriptor } from '#core/sources'
import { hostAddress, type SourceForm } from '../driver/form.ts'
import { AUTHENTICATIONS, PRIVACIES } from './session.ts'

const V3 = { field: 'version', is: 'v3' } as const

export const descriptor: ProtocolDescriptor = {
  protocol: 'snmp',
  label: 'SNMP: a UPS, a host, a switch, sensors',
  words: 'SNMP {version}',
  isPolled: true,
  isNotifying: true,
  hasTrust: false,
  addressPlaceholder: '192.0.2.20:161',
  credential: { by: 'version', kinds: { v1: 'snmp-v2c', v2c: 'snmp-v2c', v3: 'snmp-v3' } },
  fields: [
    {
      name: 'version',
      label: 'Version',
      control: 'choice',
      choices: [
        ['v3', 'v3: a user, signed and encrypted'],
        ['v2c', 'v2c: a community'],
        ['v1', 'v1: a community, for gear of old'],
      ],
      value: 'v3',
      column: 'version',
    },
    {
      name: 'authentication',
      label: 'Authentication',
      control: 'choice',
      choices: [
        ['sha', 'SHA-1 (weak)'],
        ['md5', 'MD5 (weak)'],
        ['sha224', 'SHA-224'],
        ['sha256', 'SHA-256'],
        ['sha384', 'SHA-384'],
        ['sha512', 'SHA-512'],
      ],
      value: 'sha256',
      when: V3,
      column: 'authentication',
    },
    {
      name: 'privacy',
      label: 'Privacy',
      control: 'choice',
      choices: [
        ['aes', 'AES-128'],
        ['aes256b', 'AES-256'],
        ['aes256r', 'AES-256, other key extension'],
        ['none', 'none: signed only, and read by whoever listens (weak)'],
      ],
      value: 'aes',
      when: V3,
      column: 'privacy',
    },
  ],
  mapping: null,
  look: null,
  usualIntervalSeconds: 60,
  nameEnding: ' agent',
}

export const form: SourceForm = {
  address: hostAddress('The address is a host, with :port if it is not 161'),
  settings: z.object({
    // Of a file that does not say it: the version that most gear speaks.
    version: z.enum(['v1', 'v2c', 'v3']).default('v2c'),
    authentication: z.enum(AUTHENTICATIONS).default('sha256'),
    privacy: z.enum(PRIVACIES).default('aes'),
  }),
  mapping: null,
}
