import type { ProtocolDescriptor } from '#core/sources'

export const descriptor: ProtocolDescriptor = {
  protocol: 'otlp',
  label: 'OTLP: metrics that are pushed to us',
  words: 'OTLP push',
  isPolled: false,
  isNotifying: false,
  hasTrust: false,
  addressPlaceholder: '',
  credential: { by: null, kind: null },
  fields: [],
  mapping: null,
  look: null,
  usualIntervalSeconds: 60,
  nameEnding: '',
}
