export { type AtaAttribute, type AtaSmart, decodeAtaSmart, tripped } from './ata.ts'
export { attributeCount, attributeName, attributeWhy, attributeWords } from './attributes.ts'
export { byKey } from './byKey.ts'
export {
  type Batch,
  batchesOf,
  disksSentence,
  type Drive,
  type DrivesTogether,
  type DriveTrouble,
  groupsAtRisk,
  isNearItsEnd,
  type Replacement,
  replacements,
  troubleOf,
  writesADay,
} from './drives.ts'
export { decodeNvmeHealth, NVME_WARNINGS, type NvmeHealth } from './nvme.ts'
export { type PageRow, pageTable } from './pageTable.ts'
export { enduranceIn, type Rating, type RatingLine, readRatings } from './ratings.ts'
export { ROLE, roleInGroup } from './role.ts'
export { attributeKey, type DrivePage, type DriveReading, readDrivePage } from './readings.ts'
