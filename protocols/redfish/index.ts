export { redfish, redfishTarget } from './driver.ts'
export { walk, type RedfishTree } from './walk.ts'
export { findingsOf } from './findings.ts'
