export { upsOverSnmp, snmpTarget } from './driver.ts'
export { upsFindings, UPS_OIDS, type VarbindMap } from './ups.ts'
