export { reachability, reachabilityTarget } from './driver.ts'
