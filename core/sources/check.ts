import type { Findings } from '../gear/index.ts'
import { GEAR_KINDS } from '../catalogue/index.ts'
import type { Failure } from './outcome.ts'
import type { Told } from './told.ts'

/** What a check goes through, in this order; it stops at the first that fails. */
export const STAGES = ['name', 'port', 'trust', 'credential', 'tree', 'found'] as const
export type Stage = (typeof STAGES)[number]

export const STAGE_LABELS: Readonly<Record<Stage, string>> = {
  name: 'Name resolves',
  port: 'Port answers',
  trust: 'Certificate trusted',
  credential: 'Credential accepted',
  tree: 'Expected tree is there',
  found: 'Gear and parts found',
}

/** `notNeeded`: does not apply, as the name of an address. `waiting`: under way or not come to yet. */
export type StageState = 'passed' | 'failed' | 'notNeeded' | 'waiting'

export interface StageReport {
  readonly stage: Stage
  readonly state: StageState
  /** A sentence, or empty while it waits. */
  readonly said: string
  readonly sent: string | null
  readonly received: string | null
  readonly tookMs: number | null
}

/** A certificate as it was presented. Instants in ms; the fingerprint is SHA-256 over its DER form, in hex pairs. */
export interface Certificate {
  readonly subject: string
  readonly issuer: string
  readonly names: readonly string[]
  readonly validFromMs: number
  readonly validToMs: number
  readonly fingerprint: string
  /** The authority that came along with it, the topmost of what was sent. */
  readonly authority: { readonly subject: string; readonly fingerprint: string; readonly pem: string } | null
}

/** One question and its answer, as they went over the wire, without anything secret. */
export interface Exchange {
  readonly sent: string
  readonly received: string
  readonly tookMs: number
  /** It shows that the credential is accepted. */
  readonly isAccepted: boolean
}

export const newStages = (): StageReport[] =>
  STAGES.map((stage) => ({ stage, state: 'waiting', said: '', sent: null, received: null, tookMs: null }))

/** At which stage a failure belongs. `accepted`: something was read with the credential before it. */
export function stageOf(failure: Failure, accepted: boolean): Stage {
  switch (failure.kind) {
    case 'unknownName':
      return 'name'
    case 'connectionRefused':
    case 'unreachable':
    case 'filtered':
      return 'port'
    case 'plainOnly':
    case 'untrusted':
      return 'trust'
    case 'tlsOnly':
      return 'port'
    case 'credentialsRefused':
    case 'sealedShut':
    case 'elsewhere':
      return 'credential'
    case 'connectionLost':
    case 'timedOut':
    case 'tooLarge':
    case 'malformed':
      return accepted ? 'found' : 'tree'
    case 'otherProtocol':
    case 'notAllowed':
    case 'unsupported':
      return 'tree'
    default:
      return failure satisfies never
  }
}

/** “1 server with 36 parts; 74 readings”. */
export function foundSentence({ gear, readings, counters = [] }: Findings, told: Told | null = null): string {
  if (gear.length === 0) return toldSentence(told)
  const values = readings.length + counters.length
  const counts = new Map<string, number>()
  for (const { kind } of gear) counts.set(kind, (counts.get(kind) ?? 0) + 1)
  const words = [...counts].map(([kind, count]) => {
    const { label, plural } = GEAR_KINDS[kind as keyof typeof GEAR_KINDS]
    return `${count} ${count === 1 ? noun(label) : plural}`
  })
  const parts = gear.reduce((total, each) => total + each.parts.length, 0)
  const all = words.length > 1 ? `${words.slice(0, -1).join(', ')} and ${words.at(-1)}` : words[0]!
  return `${all}${parts === 0 ? '' : ` with ${parts} ${parts === 1 ? 'part' : 'parts'}`}; ${values} ${values === 1 ? 'reading' : 'readings'}.`
}

function toldSentence(told: Told | null): string {
  if (told === null) return 'No gear that is known here.'
  const count =
    told.kind === 'series' ? told.series.length : told.blocks.reduce((n, { values }) => n + values.length, 0)
  const metrics =
    told.kind === 'series' ? ` of ${new Set(told.series.map(({ name }) => name)).size} metrics` : ''
  if (told.kind === 'registers' && told.refused !== undefined && count === 0)
    return `It answers, and refuses ${told.refused}. Nothing says yet what its registers mean.`
  return `${count} ${told.kind}${metrics}, and nothing says yet what they mean.`
}

/** A label within a sentence: abbreviations keep their capitals. */
const noun = (label: string): string =>
  /^[A-Z]{2}/.test(label) ? label : label.charAt(0).toLowerCase() + label.slice(1)
