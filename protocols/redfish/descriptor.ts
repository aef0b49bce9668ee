import { z } from 'zod'
import type { ProtocolDescriptor } from '#core/sources'
import { type SourceForm, trustSettings, urlAddress } from '../driver/form.ts'

export const descriptor: ProtocolDescriptor = {
  protocol: 'redfish',
  label: "Redfish: a server's or a chassis's controller",
  words: 'Redfish over HTTPS',
  isPolled: true,
  isNotifying: false,
  hasTrust: true,
  addressPlaceholder: 'https://192.0.2.10',
  credential: { by: null, kind: 'basic' },
  fields: [],
  mapping: null,
  look: null,
  usualIntervalSeconds: 60,
  nameEnding: ' controller',
}

export const form: SourceForm = {
  address: urlAddress('https', /^https$/, 'The address of a controller is a host, or begins with https://'),
  settings: z.object(trustSettings),
  mapping: null,
}
