export * from './batteries.ts'
export * from './strips.ts'
