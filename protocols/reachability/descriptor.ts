import { z } from 'zod'
import type { ProtocolDescriptor } from '#core/sources'
import { type SourceForm, trustSettings, urlAddress } from '../driver/form.ts'

export const descriptor: ProtocolDescriptor = {
  protocol: 'reach',
  label: 'ICMP, TCP or HTTP(S): whether something is reached',
  words: 'Reachability',
  isPolled: true,
  isNotifying: false,
  hasTrust: true,
  addressPlaceholder: 'icmp://192.0.2.30, tcp://192.0.2.30:22, https://pier.example/',
  credential: { by: null, kind: null },
  fields: [],
  mapping: null,
  look: null,
  usualIntervalSeconds: 30,
  nameEnding: '',
  isNameless: true,
}

export const form: SourceForm = {
  address: urlAddress(
    null,
    /^(icmp|tcp|https?)$/,
    'The address of a service begins with icmp://, tcp://, http:// or https://',
  ).refine((text) => !text.startsWith('tcp:') || new URL(text).port !== '', {
    error: 'A tcp:// address ends with a port, as tcp://192.0.2.30:22',
  }),
  settings: z.object(trustSettings),
  mapping: null,
}
