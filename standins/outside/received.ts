export interface ReceivedText {
  readonly receivedAt: string
  readonly to: string
  readonly text: string
  readonly id: string
}
export interface ReceivedHook {
  readonly receivedAt: string
  readonly path: string
  readonly id: string
  /** Whether its signature (RFC 9421) is that of the secret. */
  readonly isSigned: boolean
  readonly body: unknown
}
