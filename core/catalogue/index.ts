export {
  JUDGED_AS_WHOLE,
  MEASURES,
  type Measure,
  type MeasureGroup,
  type MeasureKey,
  MEASURE_GROUPS,
  ceilingOf,
  formatReading,
  isMeasureKey,
  measureKeys,
  measureOf,
  resolutionOf,
  setOwnMeasures,
} from './catalogue.ts'
export {
  isSane,
  OWN_KINDS,
  type OwnMeasure,
  type OwnMeasureFields,
  ownMeasureFrom,
  type OwnMeasureVerdict,
} from './ownMeasure.ts'
export { isSensorRole, roleOfPart, SENSOR_ROLES, type SensorRole } from './roles.ts'
export {
  GEAR_KINDS,
  type GearKind,
  type GearKindEntry,
  gearKindOf,
  PART_KINDS,
  type PartKind,
  type PartKindEntry,
  partKindOf,
  type Drawing,
  isGearKind,
  isPartKind,
  LINK_KINDS,
  type LinkKind,
} from './kinds.ts'
