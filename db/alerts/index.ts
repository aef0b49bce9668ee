export * from './alerts.ts'
export * from './listing.ts'
export * from './causes.ts'
export * from './quiet.ts'
