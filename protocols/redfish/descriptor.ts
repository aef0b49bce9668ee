import { z } from 'zod'
import type { ProtocolDescriptor } from '#core/sources'
import { type SourceForm, trustSettings, urlAddress } from '../driver/form.ts'

export const descriptor: ProtocolDescriptor = {
  protocol: 'redfish',
  label: "Redfish: a server's or a chassis's controller",
  words: 'Redfish over HTTPS',
  isPolled: true,
  canStop: true,
  isNotifying: false,
  hasTrust: true,
  addressPlaceholder: 'https://192.0.2.10',
  credential: { by: null, kind: 'basic' },
  fields: [
    {
      name: 'signIn',
      label: 'Sign-in',
      control: 'choice',
      choices: [
        ['basic', 'with each request (basic)'],
        ['session', 'by a session, ended after each reading'],
      ],
      value: 'basic',
      column: 'sign_in',
    },
  ],
  mapping: null,
  look: null,
  usualIntervalSeconds: 60,
  nameEnding: ' controller',
}

export const form: SourceForm = {
  address: urlAddress('https', /^https$/, 'The address of a controller is a host, or begins with https://'),
  settings: z.object({
    ...trustSettings,
    signIn: z
      .enum(['basic', 'session'], { error: 'The sign-in of a controller is “basic” or “session”' })
      .default('basic'),
  }),
  mapping: null,
}
