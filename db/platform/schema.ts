import type { ColumnType, Generated, JSONColumnType } from 'kysely'
import type { CallOut, Facts as MessageFacts, DutyCalendar, ChannelKind, Recipients } from '#core/callouts'
import type { GearKind, LinkKind, MeasureKey, PartKind } from '#core/catalogue'
import type { Accepted, QuietScope } from '#core/alerts'
import type { RehearsalRequest, RehearsalResult, Rule, Severity } from '#core/rules'
import type { Certificate, Failure, MappingLine, RegisterMap, Slower, StageReport, Told } from '#core/sources'
import type { Face, Turn } from '#core/site'
import type {
  FarEnd,
  Findings,
  GearChangeKind,
  GroupRule,
  OwnFieldKind,
  TagMatch,
  UnknownMembers,
} from '#core/gear'
import type { Recognised } from '#core/sources'
import { type CredentialKind } from '#core/sources'
import { type SpaceShares } from '../readings/space.ts'

type Instant = ColumnType<Date, Date, Date>
type MaybeInstant = ColumnType<Date | null, Date | null | undefined, Date | null>
type CreatedAt = ColumnType<Date, Date | undefined, never>
type Facts = JSONColumnType<Record<string, string>>

/** User and password; a token; a community; a user with two passwords. */
/** The name under which a protocol is registered. */
export type SourceProtocol = string
/** Protocols whose words mean something only by a mapping, with what a mapping of each is. */
export type MappingBody = readonly MappingLine[] | RegisterMap
export type MappedProtocol = SourceProtocol
/** What becomes of gear and parts that appear later. */
export type NewItems = 'take' | 'ask'
/** `watched`: its readings are kept. `left`: left out. `waiting`: new, for somebody to say. */
export type ItemState = 'watched' | 'left' | 'waiting'

/** The tables as `migrations/` makes them; columns in camelCase here, in snake_case there. */
export interface Database {
  site: { id: Generated<number>; name: string; timeZone: string }
  setting: { key: string; body: JSONColumnType<Record<string, unknown>> }
  building: { id: Generated<number>; name: string }
  room: {
    id: Generated<number>
    name: string
    position: Generated<number>
    buildingId: ColumnType<number | null, number | null | undefined, number | null>
    widthMm: Generated<number>
    depthMm: Generated<number>
    tileMm: Generated<number>
  }
  rack: {
    id: Generated<number>
    roomId: number
    name: string
    heightUnits: number
    position: Generated<number>
    xMm: ColumnType<number | null, number | null | undefined, number | null>
    yMm: ColumnType<number | null, number | null | undefined, number | null>
    widthMm: Generated<number>
    depthMm: Generated<number>
    turn: Generated<Turn>
  }
  floorPlace: {
    gearId: number
    roomId: number
    xMm: number
    yMm: number
    widthMm: number
    depthMm: number
    turn: Turn
    way: Generated<number[]>
  }
  gear: {
    id: Generated<number>
    name: string
    kind: GearKind
    facts: Facts
    rackId: number | null
    unit: number | null
    heightUnits: number | null
    face: ColumnType<Face | null, Face | null | undefined, Face | null>
    tags: Generated<string[]>
    warrantyEnds: ColumnType<string | null, string | null | undefined, string | null>
    own: JSONColumnType<Record<string, string>, string | undefined>
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
        readonly fromPartId?: number | null
        readonly toPartId?: number | null
        readonly sourceId?: number | null
        readonly who?: string | null
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
  link: {
    id: Generated<number>
    kind: LinkKind
    fromGearId: number
    toGearId: number
    fromPartId: ColumnType<number | null, number | null | undefined, number | null>
    toPartId: ColumnType<number | null, number | null | undefined, number | null>
    sourceId: ColumnType<number | null, number | null | undefined, number | null>
    who: ColumnType<string | null, string | null | undefined, string | null>
  }
  linkTold: {
    id: Generated<number>
    sourceId: number
    kind: LinkKind
    gearId: number
    partId: number | null
    isFrom: boolean
    far: JSONColumnType<FarEnd>
    linkId: ColumnType<number | null, number | null | undefined, number | null>
  }
  gearChange: {
    id: Generated<number>
    at: ColumnType<Date, Date | undefined, never>
    gearId: number
    partId: ColumnType<number | null, number | null | undefined, never>
    what: GearChangeKind
    subject: string
    was: string | null
    became: string | null
    who: string | null
  }
  ownField: { id: Generated<number>; name: string; kind: OwnFieldKind }
  savedFilter: { id: Generated<number>; name: string; query: string; who: string }
  tagRule: { id: Generated<number>; tag: string; body: JSONColumnType<TagMatch> }
  gearGroup: {
    id: Generated<number>
    name: string
    note: string
    rule: GroupRule
    least: number
    unknown: UnknownMembers
    tag: string | null
  }
  gearGroupMember: { groupId: number; gearId: number }
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
    sourceId: number | null
  }
  pendingPush: {
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
  /** `workers`: of the job queue, whose jobs are given to others when it dies. */
  collector: {
    name: string
    startedAt: CreatedAt
    seenAt: CreatedAt
    workers: Generated<string[]>
    health: JSONColumnType<CollectorHealth> | null
  }
  heartbeat: {
    id: Generated<number>
    direction: 'out' | 'in'
    name: string
    url: ColumnType<string | null, string | null | undefined, string | null>
    sealedSecret: ColumnType<Buffer | null, Buffer | null | undefined, Buffer | null>
    tokenHash: ColumnType<Buffer | null, Buffer | null | undefined, Buffer | null>
    intervalSeconds: number
    since: CreatedAt
    triedAt: MaybeInstant
    throughAt: MaybeInstant
    answer: ColumnType<string | null, string | null | undefined, string | null>
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
  spaceSurvey: {
    day: number
    databaseBytes: string
    freeBytes: string | null
    shares: JSONColumnType<SpaceShares> | null
  }
  rule: {
    id: Generated<number>
    key: string
    body: JSONColumnType<Rule>
    isDefault: boolean
    isOn: Generated<boolean>
    createdAt: CreatedAt
    createdBy: ColumnType<string | null, string | null | undefined, string | null>
  }
  alert: {
    id: Generated<number>
    ruleKey: string
    seriesId: number | null
    sourceId: number | null
    gearId: number | null
    partId: number | null
    measure: MeasureKey | null
    /** Whom it is about, in a word: «series 12», «source 3», «gear 4». Open once of a rule. */
    subject: string
    severity: Severity
    title: string
    reason: string
    /** The line in force at that time, in words. */
    line: ColumnType<string | null, string | null | undefined, string | null>
    /** The reading that opened it. */
    value: ColumnType<number | null, number | null | undefined, number | null>
    causeId: ColumnType<number | null, number | null | undefined, number | null>
    /** How its cause leads to it, in words. */
    causePath: ColumnType<string | null, string | null | undefined, string | null>
    /** What it means for others, in a sentence. */
    consequence: ColumnType<string | null, string | null | undefined, string | null>
    /** How often it came and went while it was open as one. */
    flaps: Generated<number>
    quietId: ColumnType<number | null, number | null | undefined, number | null>
    sinceAt: Instant
    openedAt: Instant
    clearedAt: MaybeInstant
    clearedReason: string | null
    takenAt: MaybeInstant
    takenBy: string | null
  }
  rehearsal: {
    id: Generated<string>
    requestedAt: CreatedAt
    requestedBy: string
    body: JSONColumnType<RehearsalRequest>
    startedAt: MaybeInstant
    finishedAt: MaybeInstant
    cancelledAt: MaybeInstant
    done: Generated<number>
    result: JSONColumnType<RehearsalResult> | null
    problem: string | null
  }
  quiet: {
    id: Generated<number>
    what: 'quiet' | 'accept'
    scope: JSONColumnType<QuietScope>
    reason: string
    who: string
    createdAt: CreatedAt
    startsAt: Instant
    endsAt: MaybeInstant
    repeats: string | null
    accepted: JSONColumnType<Accepted> | null
    announcedAt: MaybeInstant
    endedAt: MaybeInstant
    endedBy: string | null
    endedWhy: string | null
  }
  alertEvent: {
    id: Generated<number>
    alertId: number
    at: Instant
    what: string
    who: string | null
    text: string
  }
  person: { id: Generated<number>; name: string; email: string | null; phone: string | null }
  team: { id: Generated<number>; name: string; duty: JSONColumnType<DutyCalendar> | null }
  teamMember: { teamId: number; personId: number }
  channel: {
    id: Generated<number>
    name: string
    kind: ChannelKind
    settings: JSONColumnType<Record<string, unknown>>
    sealedSecret: Buffer | null
    createdAt: CreatedAt
  }
  callOut: {
    id: Generated<number>
    name: string
    isOn: Generated<boolean>
    body: JSONColumnType<CallOut, string, string>
    createdBy: ColumnType<string | null, string | null | undefined, string | null>
    createdAt: CreatedAt
  }
  /** Commands that the administrator of a collector's machine allows there. */
  allowedCommand: {
    collector: string
    name: string
    words: string
    heardAt: ColumnType<Date, Date | undefined, Date>
  }
  message: {
    id: string
    /** `null` of a test and of a dry run. */
    alertId: number | null
    /** Who it went to: filled in when it goes out. */
    recipients: string[]
    /** Who is told, or what is done, in words. */
    team: string
    event: Generated<'opened' | 'worse' | 'cleared' | 'test'>
    subject: string
    body: string
    createdAt: CreatedAt
    sentAt: MaybeInstant
    attempts: Generated<number>
    answer: ColumnType<string | null, string | null | undefined, string | null>
    /** Why it was not sent; such a message never will be. */
    skipped: ColumnType<string | null, string | null | undefined, string | null>
    callOutId: ColumnType<number | null, number | null | undefined, number | null>
    step: Generated<number>
    action: Generated<'notify' | 'command' | 'stop'>
    channelId: ColumnType<number | null, number | null | undefined, number | null>
    /** Whom a channel reaches; of a command its name, of a stop the gear. */
    target: JSONColumnType<MessageTarget> | null
    facts: JSONColumnType<MessageFacts> | null
    dueAt: ColumnType<Date, Date | undefined, Date>
    triedAt: MaybeInstant
    /** It was done and did not succeed, and is not tried again: a command that ended with an error. */
    isFailed: Generated<boolean>
    isDry: Generated<boolean>
  }
  change: { id: Generated<number>; at: CreatedAt; who: string; what: string }
}

/** What a collector says of itself. */
export interface CollectorHealth {
  readonly sources: number
  /** From the moment that a reading is heard until it is judged, of 99 in 100; ms. */
  readonly delayMs: number | null
  readonly spoolBytes: number
}

/** What a message is for: who receives it, which command runs, which gear is asked to stop. */
export interface MessageTarget {
  readonly to?: Recipients | null
  readonly address?: string
  readonly command?: string
  readonly gearId?: number
}
