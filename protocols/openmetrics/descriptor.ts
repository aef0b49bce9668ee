import { z } from 'zod'
import type { ProtocolDescriptor } from '#core/sources'
import { type SourceForm, trustSettings, urlAddress } from '../driver/form.ts'
import { metricsMapping } from './driver.ts'

export const descriptor: ProtocolDescriptor = {
  protocol: 'openmetrics',
  label: 'OpenMetrics: metrics as text, scraped',
  words: 'OpenMetrics over HTTP',
  isPolled: true,
  isNotifying: false,
  hasTrust: true,
  addressPlaceholder: 'https://192.0.2.25:9100/metrics',
  credential: { by: 'access', kinds: { none: null, basic: 'basic', bearer: 'bearer' } },
  fields: [
    {
      name: 'access',
      label: 'Authentication',
      control: 'choice',
      choices: [
        ['none', 'whoever asks'],
        ['bearer', 'with a bearer token'],
        ['basic', 'with user and password'],
      ],
      value: 'none',
      column: 'access',
    },
  ],
  mapping: { label: 'Mapping' },
  look: null,
  usualIntervalSeconds: 60,
  nameEnding: '',
}

export const form: SourceForm = {
  address: urlAddress(
    'http',
    /^https?$/,
    'The address of metrics begins with http:// or https://, and has a path, as /metrics',
  ),
  settings: z.object({ ...trustSettings, access: z.enum(['none', 'basic', 'bearer']).default('none') }),
  mapping: metricsMapping,
}
