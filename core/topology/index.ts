export { type Identity, type IdentityKind, IDENTITY_PRECEDENCE, usableIdentities } from './identity.ts'
export {
  FACES,
  type Face,
  facesMeet,
  fitsRack,
  freeUnits,
  type Mounted,
  overlaps,
  placeLabel,
  type Placing,
  placingProblem,
  type RackPosition,
  tryPlace,
  unitLabel,
} from './place.ts'
export {
  boxesMeet,
  type FloorBox,
  floorProblem,
  isSolid,
  snap,
  spanOf,
  type Standing,
  type Turn,
  TURNS,
  usualSize,
} from './plan.ts'
export {
  type Findings,
  type GearFinding,
  type PartFinding,
  type LinkFinding,
  type FarEnd,
  type FarLinkFinding,
  type ReadingFinding,
  type CounterFinding,
  type MeanFinding,
} from './findings.ts'
export { type GearState, GEAR_STATES, rollUp, worstState } from './state.ts'
export {
  GROUP_RULES,
  type GroupDefinition,
  type GroupRule,
  groupSentence,
  type GroupState,
  groupState,
  UNKNOWN_MEMBERS,
  type UnknownMembers,
} from './group.ts'
export { fitsPattern, fitsTagMatch, type Taggable, type TagMatch, type TagRule, tagsOf } from './tags.ts'
export {
  changeSentence,
  factChanges,
  type GearChange,
  type GearChangeKind,
  OWN_FIELD_KINDS,
  type OwnFieldKind,
  partChanges,
} from './inventory.ts'
export { type Candidate, isContradicted, likelySame, type Likeness, turnedUuid } from './likeness.ts'
export {
  drawPath,
  feedSentence,
  type Feeds,
  feedsOf,
  needOf,
  NODE_HEIGHT,
  NODE_WIDTH,
  type Path,
  type PathEdge,
  type PathGear,
  type PathGraph,
  type PathLink,
  type PathNode,
  pathOf,
} from './path.ts'
export {
  type Band,
  beforeFront,
  freeBand,
  inletBand,
  isPlanSubject,
  PLAN_SUBJECTS,
  type PlanSubject,
  powerBand,
  probeBefore,
  type Tint,
} from './room.ts'
export {
  type Bookable,
  type BookFilter,
  bookFilterOf,
  fitsBooks,
  SOON_DAYS,
  WARRANTIES,
  type Warranty,
  warrantyOf,
} from './books.ts'
