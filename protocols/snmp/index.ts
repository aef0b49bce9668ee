export { snmpAgent } from './driver.ts'
export { agentFindings } from './agent.ts'
export { snmpTarget, type Objects } from './session.ts'
export { upsFindings, UPS_OIDS } from './ups.ts'
