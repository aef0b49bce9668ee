import type { ColumnType, Generated, JSONColumnType } from 'kysely'
import type { GearKind, PartKind } from '#core/catalogue'
import type {
  Certificate,
  CredentialKind,
  Failure,
  MappingLine,
  Recognised,
  RegisterMap,
  Slower,
  StageReport,
  Told,
} from '#core/sources'
import type { Findings } from '#core/gear'
import type { CreatedAt, Instant, MaybeInstant } from '../platform/columns.ts'

/** The name under which a protocol is registered. */
export type SourceProtocol = string
/** Protocols whose words mean something only by a mapping, with what a mapping of each is. */
export type MappingBody = readonly MappingLine[] | RegisterMap
export type MappedProtocol = SourceProtocol
/** What becomes of gear and parts that appear later. */
export type NewItems = 'take' | 'ask'
/** `watched`: its readings are kept. `left`: left out. `waiting`: new, for somebody to say. */
export type ItemState = 'watched' | 'left' | 'waiting'

/** What somebody tried who is not known here. */
export type Attempt = 'push' | 'heartbeat' | 'notification'

/** What is the same in all moments of a push is kept once. */
export interface KeptPush {
  readonly shared: Pick<Findings, 'gear' | 'links' | 'farLinks'>
  readonly moments: readonly ({ readonly atMs: number } & Omit<Findings, 'gear' | 'links' | 'farLinks'>)[]
}

/** Of the tables as `migrations/` makes them; columns in camelCase here, in snake_case there. */
export interface SourcesTables {
  credential: {
    id: Generated<number>
    name: string
    kind: CredentialKind
    sealed: Buffer
    hosts: Generated<string[]>
    inClear: ColumnType<string | null, string | null | undefined, string | null>
    createdAt: CreatedAt
  }
  source: {
    id: Generated<number>
    name: string
    protocol: SourceProtocol
    address: string
    settings: JSONColumnType<Record<string, unknown>>
    credentialId: number | null
    mappingId: number | null
    tokenHash: Buffer | null
    intervalSeconds: number
    createdAt: CreatedAt
    lastAttemptAt: MaybeInstant
    lastHeardAt: MaybeInstant
    lastDurationMs: number | null
    failure: JSONColumnType<Failure> | null
    failedAt: MaybeInstant
    failures: Generated<number>
    checkRequestedAt: MaybeInstant
    newItems: Generated<NewItems>
    slower: JSONColumnType<Slower, string | undefined>
    latestRows: Generated<number>
    leaseHolder: string | null
    leaseUntil: MaybeInstant
  }
  mapping: {
    id: Generated<number>
    name: string
    protocol: MappedProtocol
    body: JSONColumnType<MappingBody, string, string>
    isShipped: Generated<boolean>
  }
  pendingSender: {
    id: Generated<number>
    tokenHash: Buffer
    address: string
    firstAt: Instant
    lastAt: Instant
    pushes: number
    gear: JSONColumnType<readonly { readonly name: string; readonly kind: string }[]>
    readings: number
    isRefused: Generated<boolean>
    refusedAt: MaybeInstant
    sourceId: number | null
  }
  turnedAway: {
    address: string
    what: Attempt
    reason: string
    count: number
    firstAt: Instant
    lastAt: Instant
  }
  pendingPush: {
    id: Generated<string>
    senderId: number
    heardAt: Instant
    moments: JSONColumnType<KeptPush>
    bytes: number
  }
  recognition: {
    id: Generated<string>
    requestedAt: CreatedAt
    requestedBy: string
    hosts: string[]
    tcpPorts: number[]
    udpPorts: number[]
    credentialIds: number[]
    startedAt: MaybeInstant
    finishedAt: MaybeInstant
    done: Generated<number>
    found: JSONColumnType<readonly Recognised[], string | undefined>
  }
  checkRun: {
    id: Generated<string>
    requestedAt: CreatedAt
    requestedBy: string
    sourceId: number | null
    protocol: SourceProtocol
    address: string
    settings: JSONColumnType<Record<string, unknown>>
    credentialId: number | null
    sealed: Buffer | null
    startedAt: MaybeInstant
    finishedAt: MaybeInstant
    stages: JSONColumnType<readonly StageReport[], string | undefined>
    certificate: JSONColumnType<Certificate> | null
    findings: JSONColumnType<Findings> | null
    failure: JSONColumnType<Failure> | null
    told: JSONColumnType<Told> | null
  }
  sourceItem: {
    sourceId: number
    gearKey: string
    partKey: string
    kind: GearKind | PartKind
    name: string
    state: ItemState
    why: string | null
    firstSeenAt: Instant
    goneAt: MaybeInstant
    partId: ColumnType<number | null, number | null | undefined, number | null>
  }
}
