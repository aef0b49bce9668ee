/** The kinds of credential that are kept. */
export const CREDENTIAL_KINDS = ['basic', 'bearer', 'snmp-v2c', 'snmp-v3'] as const
export type CredentialKind = (typeof CREDENTIAL_KINDS)[number]

/** Least rights that are enough on the far side, in a sentence. */
export const LEAST_RIGHTS: Readonly<Record<CredentialKind, string>> = {
  basic: 'A user that may log in and read is enough (in Redfish the role ReadOnly).',
  bearer: 'A token that may read metrics is enough.',
  'snmp-v2c': 'A read-only community is enough; it goes over the wire in the open.',
  'snmp-v3': 'A user that may read 1.3.6.1.2.1, with authentication and privacy, is enough.',
}
