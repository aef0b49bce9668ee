export { reachability, reachabilityTarget, reachFindings } from './driver.ts'
