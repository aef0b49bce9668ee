export { reachability, reachabilityTarget, reachFindings } from './driver.ts'
export { descriptor as reachabilityDescriptor, form as reachabilityForm } from './descriptor.ts'
