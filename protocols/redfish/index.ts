export { redfish, redfishTarget } from './driver.ts'
export { MissingDocument, walk, type RedfishTree } from './walk.ts'
export { findingsOf } from './findings.ts'
export { stopSystem, type StopOutcome } from './stop.ts'
