export { type Identity, type IdentityKind, IDENTITY_PRECEDENCE, usableIdentities } from './identity.ts'
export {
  type Findings,
  type GearFinding,
  type PageFinding,
  type PartFinding,
  type LinkFinding,
  type FarEnd,
  type FarLinkFinding,
  type ReadingFinding,
  type CounterFinding,
  type MeanFinding,
} from './findings.ts'
export { type GearState, GEAR_STATES, rollUp, STATE_PREDICATES, STATE_WORDS, worstState } from './state.ts'
export {
  type Around,
  isCurrent,
  partView,
  type PartView,
  pickSeries,
  readingGroups,
  readingView,
  type ReadingView,
} from './readingViews.ts'
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
export {
  circleOf,
  type Containing,
  containersOf,
  type GroupMembers,
  type GroupNode,
  groupTree,
  type MemberGear,
} from './groupTree.ts'
export { calledOf, serviceSentence, servicesSentence } from './serviceWords.ts'
export { fitsPattern, fitsTagMatch, type Taggable, type TagMatch, type TagRule, tagsOf } from './tags.ts'
export {
  changeSentence,
  factChanges,
  type GearChange,
  type GearChangeKind,
  OWN_FIELD_KINDS,
  type OwnFieldKind,
  partChanges,
} from './changes.ts'
export { type Candidate, isContradicted, likelySame, type Likeness, turnedUuid } from './likeness.ts'
export {
  fitsGearList,
  type GearListFilter,
  gearListFilterOf,
  type GearListRow,
  isFiltering,
} from './gearList.ts'
export {
  type Inventoried,
  type InventoryFilter,
  inventoryFilterOf,
  fitsInventory,
  SOON_DAYS,
  WARRANTIES,
  type Warranty,
  warrantyOf,
} from './inventory.ts'
