import type { Exchange, Failure, Outcome, Told } from '#core/sources'
import type { Findings } from '#core/gear'
import type { Trust } from '#protocols/reach'

/** What a source needs to be read: its address, its settings and its opened credential. Validated by the driver. */
export interface Target {
  readonly address: string
  readonly settings: Readonly<Record<string, unknown>>
  readonly secret: Readonly<Record<string, string>>
}

/** Where a target is reached and how. */
export interface Reach {
  readonly host: string
  readonly port: number
  readonly transport: 'tls' | 'tcp' | 'udp' | 'icmp'
  readonly trust: Trust
}

/** A protocol that we ask. */
export interface Driver {
  readonly protocol: string
  /** @throws ZodError when the target is not one of this protocol; its first message is a sentence for people */
  reach(target: Target): Reach
  /**
   * Reads everything once. A fault of the far side is an `Outcome`; rejects only when we have a bug.
   * @param timeoutMs for the whole reading, not for one request
   * @param trace told of each question and answer, without anything secret
   * @param told given what the far side says in its own words, by protocols whose words need a mapping
   */
  collect(request: {
    target: Target
    timeoutMs: number
    trace?: (exchange: Exchange) => void
    told?: (told: Told) => void
  }): Promise<Outcome<Findings>>
  /**
   * Whether anything answers over UDP or ICMP without a credential, and with which words; where absent, a datagram that nobody
   * answers proves nothing.
   */
  greet?(target: Target, timeoutMs: number): Promise<Outcome<string>>
  /** A closer look at a failure, with further questions, when somebody waits for the reason. */
  explain?(request: { target: Target; timeoutMs: number; failure: Failure }): Promise<Failure>
}
