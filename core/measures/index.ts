export {
  MEASURES,
  type Measure,
  type MeasureGroup,
  type MeasureKey,
  MEASURE_GROUPS,
  formatReading,
  isMeasureKey,
  measureOf,
  resolutionOf,
} from './catalogue.ts'
export {
  GEAR_KINDS,
  type GearKind,
  PART_KINDS,
  type PartKind,
  isGearKind,
  LINK_KINDS,
  type LinkKind,
} from './kinds.ts'
