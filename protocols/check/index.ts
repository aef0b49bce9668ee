export { type CheckResult, runCheck } from './check.ts'
