export * from './places.ts'
