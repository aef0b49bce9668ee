export * from './alerts.ts'
export * from './causes.ts'
export * from './quiet.ts'
export * from './quietTimes.ts'
