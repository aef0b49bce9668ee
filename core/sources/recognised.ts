/** Something that answers at an address, and how it would be connected. */
export interface Recognised {
  readonly protocol: 'redfish' | 'snmp' | 'openmetrics' | 'modbus' | 'reach'
  /** As its kind of source has it. */
  readonly address: string
  readonly settings: Readonly<Record<string, unknown>>
  /** Which of the credentials that were given it took; `null` where none was needed or none was right. */
  readonly credentialId: number | null
  /** In words: what it says of itself. */
  readonly said: string
}
