import type { ColumnType, Generated, JSONColumnType } from 'kysely'
import type { GearKind, LinkKind, MeasureKey, PartKind } from '#core/measures'
import type { Rule, Severity } from '#core/rules'
import type { Certificate, Failure, MappingLine, RegisterMap, Slower, StageReport, Told } from '#core/sources'
import type { Findings } from '#core/topology'
import type { Recognised } from '#protocols/recognise'

type Instant = ColumnType<Date, Date, Date>
type MaybeInstant = ColumnType<Date | null, Date | null | undefined, Date | null>
type CreatedAt = ColumnType<Date, Date | undefined, never>
type Facts = JSONColumnType<Record<string, string>>

/** User and password; a token; a community; a user with two passwords. */
export type CredentialKind = 'basic' | 'bearer' | 'snmp-v2c' | 'snmp-v3'
export type SourceProtocol = 'redfish' | 'snmp' | 'openmetrics' | 'modbus' | 'reach' | 'otlp'
/** Protocols whose words mean something only by a mapping, with what a mapping of each is. */
export type MappingBody = readonly MappingLine[] | RegisterMap
export type MappedProtocol = 'openmetrics' | 'modbus'
/** What becomes of gear and parts that appear later. */
export type NewItems = 'take' | 'ask'
/** `watched`: its readings are kept. `left`: left out. `waiting`: new, for somebody to say. */
export type ItemState = 'watched' | 'left' | 'waiting'

/** The tables as `migrations/` makes them; columns in camelCase here, in snake_case there. */
export interface Database {
  site: { id: Generated<number>; name: string; timeZone: string }
  setting: { key: string; body: JSONColumnType<Record<string, unknown>> }
  room: { id: Generated<number>; name: string; position: Generated<number> }
  rack: {
    id: Generated<number>
    roomId: number
    name: string
    heightUnits: number
    position: Generated<number>
  }
  gear: {
    id: Generated<number>
    name: string
    kind: GearKind
    facts: Facts
    rackId: number | null
    unit: number | null
    heightUnits: number | null
    tags: Generated<string[]>
    mergedInto: ColumnType<number | null, number | null | undefined, number | null>
    createdAt: CreatedAt
  }
  gearMerge: {
    id: Generated<number>
    keptId: number
    mergedId: number
    at: CreatedAt
    who: string
    moved: JSONColumnType<{
      readonly sightings: readonly { readonly sourceId: number; readonly key: string }[]
      readonly identities: readonly { readonly kind: string; readonly value: string }[]
      readonly links: readonly {
        readonly kind: string
        readonly fromGearId: number
        readonly toGearId: number
      }[]
    }>
    undoneAt: MaybeInstant
    undoneBy: string | null
  }
  gearApart: { firstId: number; secondId: number; who: string; at: CreatedAt }
  gearIdentity: { kind: string; value: string; gearId: number }
  part: {
    id: Generated<number>
    gearId: number
    key: string
    kind: PartKind
    name: string
    facts: Facts
    isPresent: Generated<boolean>
  }
  link: { kind: LinkKind; fromGearId: number; toGearId: number }
  credential: {
    id: Generated<number>
    name: string
    kind: CredentialKind
    sealed: Buffer
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
  waitingSender: {
    id: Generated<number>
    tokenHash: Buffer
    address: string
    firstAt: Instant
    lastAt: Instant
    pushes: number
    gear: JSONColumnType<readonly { readonly name: string; readonly kind: string }[]>
    readings: number
    isRefused: Generated<boolean>
    sourceId: number | null
  }
  waitingPush: {
    id: Generated<string>
    senderId: number
    heardAt: Instant
    moments: JSONColumnType<readonly { readonly atMs: number; readonly findings: Findings }[]>
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
  deviceText: {
    id: Generated<string>
    heardAt: Instant
    saidAt: MaybeInstant
    address: string
    host: string | null
    sourceId: number | null
    gearId: number | null
    kind: 'syslog' | 'trap'
    severity: number
    app: string | null
    body: string
    times: number
  }
  collector: { name: string; startedAt: CreatedAt; seenAt: CreatedAt }
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
  sighting: { sourceId: number; key: string; gearId: number }
  series: {
    id: Generated<number>
    sourceId: number
    gearId: number
    partId: number | null
    measure: MeasureKey
  }
  layout: { id: Generated<number>; sourceId: number; seriesIds: number[] }
  hot: { sourceId: number; ts: Instant; layout: number; vals: Buffer }
  chunk: {
    seriesId: number
    day: number
    days: number
    readings: number
    firstMs: string
    lastMs: string
    data: Buffer
  }
  summary: { seriesId: number; period: number; hours: Buffer; sketches: Buffer }
  lastSealed: { sourceId: number; ts: Instant; layout: number; vals: Buffer }
  correction: {
    id: Generated<string>
    seriesId: number
    atMs: number
    was: number
    became: number
    noticedAt: CreatedAt
  }
  retention: { measure: MeasureKey; rawDays: number; summaryDays: number }
  spaceSurvey: { day: number; databaseBytes: string; freeBytes: string | null }
  rule: { id: Generated<number>; key: string; body: JSONColumnType<Rule>; isDefault: boolean }
  alert: {
    id: Generated<number>
    ruleKey: string
    seriesId: number | null
    sourceId: number | null
    gearId: number | null
    partId: number | null
    measure: MeasureKey | null
    severity: Severity
    title: string
    reason: string
    sinceAt: Instant
    openedAt: Instant
    clearedAt: MaybeInstant
    clearedReason: string | null
    takenAt: MaybeInstant
    takenBy: string | null
  }
  alertEvent: {
    id: Generated<number>
    alertId: number
    at: Instant
    what: string
    who: string | null
    text: string
  }
  message: {
    id: string
    alertId: number
    recipients: string[]
    team: string
    subject: string
    body: string
    createdAt: CreatedAt
    sentAt: MaybeInstant
    attempts: Generated<number>
    answer: string | null
  }
  change: { id: Generated<number>; at: CreatedAt; who: string; what: string }
}
