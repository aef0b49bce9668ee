export * from './accounts.ts'
