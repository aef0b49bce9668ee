export { type Identity, type IdentityKind, IDENTITY_PRECEDENCE, usableIdentities } from './identity.ts'
export { type RackPosition, overlaps, unitLabel, placeLabel, fitsRack } from './place.ts'
export {
  type Findings,
  type GearFinding,
  type PartFinding,
  type LinkFinding,
  type ReadingFinding,
  type CounterFinding,
  type MeanFinding,
} from './findings.ts'
export { type GearState, GEAR_STATES, rollUp, worstState } from './state.ts'
export { type Candidate, isContradicted, likelySame, type Likeness, turnedUuid } from './likeness.ts'
