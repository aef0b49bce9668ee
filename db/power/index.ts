export * from './batteries.ts'
