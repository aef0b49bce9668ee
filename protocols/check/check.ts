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
export async function runCheck({ driver, target, timeoutMs, tell }: CheckRequest): Promise<CheckResult> {
  const reach = driver.reach(target)
  const stages = newStages()
  let certificate: Certificate | null = null
  let told: Told | null = null
  const report = (stage: Stage, rest: Partial<StageReport>): void => {
    const at = STAGES.indexOf(stage)
    stages[at] = { ...stages[at]!, ...rest }
    tell([...stages], certificate)
  }
  const timed = async <Result>(work: () => Promise<Result>): Promise<[Result, number]> => {
    const startedMs = performance.now()
    const result = await work()
    return [result, performance.now() - startedMs]
  }
  const failed = (failure: Failure, isAccepted: boolean, last: Exchange | null): CheckResult => {
    // A later question may tell that an earlier stage was not what it seemed, as silence by UDP.
    const at = STAGES.indexOf(stageOf(failure, isAccepted))
    stages.splice(at + 1, Infinity, ...newStages().slice(at + 1))
    report(stageOf(failure, isAccepted), {
      state: 'failed',
      said: failureSentence(failure),
      ...(last === null ? {} : { sent: last.sent, received: last.received, tookMs: last.tookMs }),
    })
    return { stages, failure, certificate, findings: null, told }
  }
  const address = addressOf(reach)

  const [named, nameMs] = await timed(() => resolveName(reach.host))
  if ('failure' in named)
    return failed(named.failure, false, {
      sent: `the name ${reach.host}, to the resolver`,
      received: 'no address',
      tookMs: nameMs,
      isAccepted: false,
    })
  report('name', {
    ...(isIP(reach.host) === 0
      ? { state: 'passed', said: `${reach.host} is ${named.addresses.join(', ')}.`, tookMs: nameMs }
      : { state: 'notNeeded', said: 'An address needs no name.' }),
  })

  const [answer, portMs] = await timed(() => tryPort(driver, target, reach, timeoutMs))
  const knock = KNOCKS[reach.transport](address)
  if (answer.kind === 'failed')
    return failed(answer.failure, false, {
      sent: knock,
      received: answer.failure.kind === 'connectionRefused' ? 'a refusal' : 'nothing',
      tookMs: portMs,
      isAccepted: false,
    })
  report('port', { state: 'passed', said: answer.found, sent: knock, tookMs: portMs })

  if (reach.transport === 'tls') {
    const [hands, tlsMs] = await timed(() => shakeHands(reach, reach.trust, timeoutMs))
    certificate = hands.certificate
    const shown = {
      sent: `a TLS handshake with ${address}`,
      received:
        certificate === null
          ? 'no certificate'
          : `a certificate for «${certificate.subject}», signed by «${certificate.issuer}»`,
      tookMs: tlsMs,
    }
    if (hands.failure !== null) return failed(hands.failure, false, { ...shown, isAccepted: false })
    report('trust', { state: 'passed', said: trustedSentence(reach, certificate, hands.spoken), ...shown })
  } else {
    const said =
      reach.transport === 'udp' || reach.transport === 'icmp'
        ? 'It goes without TLS.'
        : 'Asked plainly: what is read goes over the wire in the open.'
    report('trust', { state: 'notNeeded', said })
  }

  let last: Exchange | null = null
  let accepted: Exchange | null = null
  const [outcome, readMs] = await timed(() =>
    driver.collect({
      target,
      timeoutMs,
      trace(exchange) {
        last = exchange
        if (exchange.isAccepted) accepted ??= exchange
      },
      told: (given) => (told = given),
    }),
  )
  const shown = accepted as Exchange | null
  if (shown !== null)
    report('credential', {
      state: 'passed',
      said: 'What was asked with it was answered.',
      sent: shown.sent,
      received: shown.received,
      tookMs: shown.tookMs,
    })
  if (outcome.kind === 'failed') {
    const failure =
      (await driver.explain?.({ target, timeoutMs, failure: outcome.failure })) ?? outcome.failure
    return failed(failure, shown !== null, last)
  }
  if (shown === null) report('credential', { state: 'notNeeded', said: 'None is asked for.' })
  return found(outcome, { stages, certificate, report, readMs, told })
}

function found(
  outcome: Outcome<Findings> & { kind: 'found' },
  rest: {
    readonly stages: StageReport[]
    readonly certificate: Certificate | null
    readonly report: (stage: Stage, rest: Partial<StageReport>) => void
    readonly readMs: number
    readonly told: Told | null
  },
): CheckResult {
  const { stages, certificate, report, readMs, told } = rest
  report('tree', { state: 'passed', said: 'It has what this kind of source provides.', tookMs: readMs })
  const failure: Failure | null = null
  report('found', { state: 'passed', said: foundSentence(outcome.found, told), tookMs: readMs })
  return { stages, failure, certificate, findings: outcome.found, told }
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
        ? `Signed by the authority of this source, «${certificate?.issuer ?? ''}»`
        : `Signed by a public authority, «${certificate?.issuer ?? ''}»`
  return `${by}; ${spoken}.`
}
