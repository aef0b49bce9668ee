export * from './clusters.ts'
