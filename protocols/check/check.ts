import { isIP } from 'node:net'
import {
  type Certificate,
  type Exchange,
  type Failure,
  failureSentence,
  foundSentence,
  newStages,
  type Outcome,
  type Stage,
  stageOf,
  type StageReport,
  STAGES,
  type Told,
} from '#core/sources'
import type { Findings } from '#core/gear'
import type { Driver, Reach, Target } from '#protocols/driver'
import { addressOf, openTcp, resolveName, shakeHands } from '#protocols/reach'

export interface CheckResult {
  readonly stages: readonly StageReport[]
  readonly failure: Failure | null
  readonly certificate: Certificate | null
  readonly findings: Findings | null
  /** In the far side's own words, where those need a mapping. */
  readonly told: Told | null
}

/** How a door is knocked at, by transport. */
const KNOCKS: Readonly<Record<Reach['transport'], (address: string) => string>> = {
  tcp: (address) => `SYN to ${address}`,
  tls: (address) => `SYN to ${address}`,
  udp: (address) => `a question without credential to ${address}`,
  icmp: (address) => `ICMP echo to ${address.replace(/:\d+$/, '')}`,
}

interface CheckRequest {
  readonly driver: Driver
  readonly target: Target
  /** For each stage. */
  readonly timeoutMs: number
  /** Told of all stages whenever one of them ends. */
  readonly tell: (stages: readonly StageReport[], certificate: Certificate | null) => void
}

/**
 * Goes from the name of a far side to its gear, stage by stage, and stops where something is wrong.
 * @throws ZodError when the target is not one of the driver's protocol
 */
export const runCheck = (request: CheckRequest): Promise<CheckResult> => new CheckRun(request).run()

/** A failure, and what was sent and received when it came. */
interface Stop {
  readonly failure: Failure
  readonly isAccepted: boolean
  readonly last: Exchange | null
}

/** One check on its way. Each stage passes, or says where it stopped. */
class CheckRun {
  readonly #stages = newStages()
  readonly #reach: Reach
  #certificate: Certificate | null = null
  #told: Told | null = null

  constructor(private readonly request: CheckRequest) {
    this.#reach = request.driver.reach(request.target)
  }

  async run(): Promise<CheckResult> {
    const stop = (await this.#name()) ?? (await this.#port()) ?? (await this.#trust())
    return stop === null ? this.#read() : this.#stopped(stop)
  }

  #report(stage: Stage, rest: Partial<StageReport>): void {
    const at = STAGES.indexOf(stage)
    this.#stages[at] = { ...this.#stages[at]!, ...rest }
    this.request.tell([...this.#stages], this.#certificate)
  }

  #stopped({ failure, isAccepted, last }: Stop): CheckResult {
    // A later question may tell that an earlier stage was not what it seemed, as silence by UDP.
    const stage = stageOf(failure, isAccepted)
    const at = STAGES.indexOf(stage)
    this.#stages.splice(at + 1, Infinity, ...newStages().slice(at + 1))
    this.#report(stage, {
      state: 'failed',
      said: failureSentence(failure),
      ...(last === null ? {} : { sent: last.sent, received: last.received, tookMs: last.tookMs }),
    })
    return this.#result(failure, null)
  }

  #result(failure: Failure | null, findings: Findings | null): CheckResult {
    return { stages: this.#stages, failure, certificate: this.#certificate, findings, told: this.#told }
  }

  async #name(): Promise<Stop | null> {
    const { host } = this.#reach
    const [named, tookMs] = await timed(() => resolveName(host))
    if ('failure' in named) {
      const sent = `the name ${host}, to the resolver`
      return stopAt(named.failure, { sent, received: 'no address', tookMs })
    }
    this.#report(
      'name',
      isIP(host) === 0
        ? { state: 'passed', said: `${host} is ${named.addresses.join(', ')}.`, tookMs }
        : { state: 'notNeeded', said: 'An address needs no name.' },
    )
    return null
  }

  async #port(): Promise<Stop | null> {
    const { driver, target, timeoutMs } = this.request
    const [answer, tookMs] = await timed(() => tryPort(driver, target, this.#reach, timeoutMs))
    const sent = KNOCKS[this.#reach.transport](addressOf(this.#reach))
    if (answer.kind === 'failed') {
      const received = answer.failure.kind === 'connectionRefused' ? 'a refusal' : 'nothing'
      return stopAt(answer.failure, { sent, received, tookMs })
    }
    this.#report('port', { state: 'passed', said: answer.found, sent, tookMs })
    return null
  }

  async #trust(): Promise<Stop | null> {
    const { transport, trust } = this.#reach
    if (transport !== 'tls') {
      const said =
        transport === 'udp' || transport === 'icmp'
          ? 'It goes without TLS.'
          : 'Asked plainly: what is read goes over the wire in the open.'
      this.#report('trust', { state: 'notNeeded', said })
      return null
    }
    const [hands, tookMs] = await timed(() => shakeHands(this.#reach, trust, this.request.timeoutMs))
    const { certificate } = hands
    this.#certificate = certificate
    const shown = {
      sent: `a TLS handshake with ${addressOf(this.#reach)}`,
      received:
        certificate === null
          ? 'no certificate'
          : `a certificate for “${certificate.subject}”, signed by “${certificate.issuer}”`,
      tookMs,
    }
    if (hands.failure !== null) return stopAt(hands.failure, shown)
    const said = trustedSentence(this.#reach, certificate, hands.spoken)
    this.#report('trust', { state: 'passed', said, ...shown })
    return null
  }

  /** Credential, tree and what is found come of one reading. */
  async #read(): Promise<CheckResult> {
    const { driver, target, timeoutMs } = this.request
    const seen: { last: Exchange | null; accepted: Exchange | null } = { last: null, accepted: null }
    const [outcome, tookMs] = await timed(() =>
      driver.collect({
        target,
        timeoutMs,
        trace(exchange) {
          seen.last = exchange
          if (exchange.isAccepted) seen.accepted ??= exchange
        },
        told: (given) => (this.#told = given),
      }),
    )
    const { last, accepted } = seen
    if (accepted !== null) {
      const { sent, received } = accepted
      const said = 'What was asked with it was answered.'
      this.#report('credential', { state: 'passed', said, sent, received, tookMs: accepted.tookMs })
    }
    if (outcome.kind === 'failed') {
      const explained = await driver.explain?.({ target, timeoutMs, failure: outcome.failure })
      return this.#stopped({ failure: explained ?? outcome.failure, isAccepted: accepted !== null, last })
    }
    if (accepted === null) this.#report('credential', { state: 'notNeeded', said: 'None is asked for.' })
    this.#report('tree', { state: 'passed', said: 'It has what this kind of source provides.', tookMs })
    this.#report('found', { state: 'passed', said: foundSentence(outcome.found, this.#told), tookMs })
    return this.#result(null, outcome.found)
  }
}

/** Before anything was asked with the credential. */
const stopAt = (failure: Failure, exchange: Omit<Exchange, 'isAccepted'>): Stop => ({
  failure,
  isAccepted: false,
  last: { ...exchange, isAccepted: false },
})

async function timed<Result>(work: () => Promise<Result>): Promise<[Result, tookMs: number]> {
  const startedMs = performance.now()
  const result = await work()
  return [result, performance.now() - startedMs]
}

async function tryPort(
  driver: Driver,
  target: Target,
  reach: Reach,
  timeoutMs: number,
): Promise<Outcome<string>> {
  if (reach.transport === 'udp' || reach.transport === 'icmp')
    return (
      driver.greet?.(target, timeoutMs) ?? {
        kind: 'found',
        found: 'A datagram was sent; who does not answer cannot be told from who is not there.',
      }
    )
  const opened = await openTcp(reach, timeoutMs)
  if ('failure' in opened) return { kind: 'failed', failure: opened.failure }
  opened.socket.destroy()
  return { kind: 'found', found: `${addressOf(reach)} takes connections.` }
}

function trustedSentence({ trust }: Reach, certificate: Certificate | null, spoken: string): string {
  const by =
    trust.fingerprint !== null
      ? 'Trusted by its fingerprint'
      : trust.authorityPem !== null
        ? `Signed by the authority of this source, “${certificate?.issuer ?? ''}”`
        : `Signed by a public authority, “${certificate?.issuer ?? ''}”`
  return `${by}; ${spoken}.`
}
