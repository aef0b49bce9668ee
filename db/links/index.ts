export * from './links.ts'
