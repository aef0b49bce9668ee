export { type AtaAttribute, type AtaSmart, decodeAtaSmart, tripped } from './ata.ts'
export { decodeNvmeHealth, NVME_WARNINGS, type NvmeHealth } from './nvme.ts'
export { type DrivePage, type DriveReading, readDrivePage } from './readings.ts'
